# A line of a small file.
function global:__wm_first([string]$path) {
    $info = [IO.FileInfo]::new($path)
    if (-not $info.Exists -or $info.Length -eq 0 -or $info.LinkTarget) { return '' }
    $reader = [IO.StreamReader]::new($path)
    $line = $reader.ReadLine()
    $reader.Dispose()
    return $line
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
    } else {
        return
    }
    if (-not $name) { return }
    $w.Below = $below
@OPERATION@@ASKED@    __wm_clean $name
    $w.Branch = $w.Text
}
