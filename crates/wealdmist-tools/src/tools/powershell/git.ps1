# A line of a small file.
function global:__wm_first([string]$path) {
    $info = [IO.FileInfo]::new($path)
    if (-not $info.Exists -or $info.Length -eq 0 -or $info.LinkTarget) { return '' }
    $reader = [IO.StreamReader]::new($path)
    $line = $reader.ReadLine()
    $reader.Dispose()
    return $line
}
# Where no branch is checked out: the tag that was, as the log says and where there is such a one.
function global:__wm_tag([string]$git, [string]$head) {
    $log = [IO.Path]::Combine($git, 'logs/HEAD')
    if (-not [IO.File]::Exists($log)) { return '' }
    $last = [IO.File]::ReadAllText($log).TrimEnd().Split("`n")[-1]
    if ($last -notmatch ('^[0-9a-f]+ ' + $head + ' .*\tcheckout: moving from .* to ([^ ]+)$')) { return '' }
    $to = $Matches[1]
    $common = $git
    $path = [IO.Path]::Combine($git, 'commondir')
    if ([IO.File]::Exists($path)) { $common = [IO.Path]::Combine($git, (__wm_first $path)) }
    if ([IO.File]::Exists([IO.Path]::Combine($common, 'refs/tags', $to))) { return $to }
    $packed = [IO.Path]::Combine($common, 'packed-refs')
    if (-not [IO.File]::Exists($packed)) { return '' }
    if ([IO.File]::ReadAllText($packed).Split("`n") -match (' refs/tags/' + [regex]::Escape($to) + '$')) { return $to }
    return ''
}
@HARMLESS@function global:__wm_git {
    $w = $global:__wm
    $w.Branch = ''
    $w.Below = -1
    $w.Dirty = ''
    $w.Stale = $false
    $w.Doing = ''
    $w.Steps = ''
    $dir = $w.Folder
    $below = 0
    while ($true) {
        $git = [IO.Path]::Combine($dir, '.git')
        if ([IO.Directory]::Exists($git) -or [IO.File]::Exists($git)) { break }
        $dir = [IO.Path]::GetDirectoryName($dir)
        if (-not $dir) { return }
        $below += 1
    }
    if ([IO.File]::Exists($git)) {
        $line = __wm_first $git
        if (-not $line.StartsWith('gitdir: ')) { return }
        $git = [IO.Path]::Combine($dir, $line.Substring(8))
    }
    $line = __wm_first ([IO.Path]::Combine($git, 'HEAD'))
    if ($line.StartsWith('ref: refs/heads/')) {
        $name = $line.Substring(16)
    } elseif ($line.StartsWith('ref: ')) {
        $name = $line.Substring(5)
    } elseif ($line -cmatch '^[0-9a-f]{8}') {
        $name = $line.Substring(0, 8)
        $tag = __wm_tag $git $line
        if ($tag) { $name = $tag }
    } else {
        return
    }
    if (-not $name) { return }
    $w.Below = $below
@OPERATION@@ASKED@    __wm_clean $name
    $w.Branch = $w.Text
}
