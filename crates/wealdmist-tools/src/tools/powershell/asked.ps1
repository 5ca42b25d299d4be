# Whether a file or folder is one's own.
function global:__wm_own([string]$path) {
    if ($IsWindows) {
        $owner = (Get-Acl -LiteralPath $path).Owner
        return $owner -eq [Security.Principal.WindowsIdentity]::GetCurrent().Name
    }
    return "$((Get-Item -LiteralPath $path -Force).UnixStat.UserId)" -eq $global:__wm.User
}
# Whether a repository's configuration says nothing of what is refused.
function global:__wm_harmless([string]$path) {
    $info = [IO.FileInfo]::new($path)
    if (-not $info.Exists) { return -not ($info.LinkTarget -or [IO.Directory]::Exists($path)) }
    if ($info.LinkTarget -or $info.Length -eq 0 -or $info.Length -gt @CONFIGURATION@) { return $false }
    return [IO.File]::ReadAllText($path) -notmatch '@REFUSED@'
}
# What git is asked.
function global:__wm_asks([string]$git, [string]$dir) {
    $start = [Diagnostics.ProcessStartInfo]::new('git')
    foreach ($word in '@ARGUMENTS@'.Split(' ') + @ASKS@) { $start.ArgumentList.Add($word) }
    foreach ($name in 'GIT_INDEX_FILE', 'GIT_OBJECT_DIRECTORY', 'GIT_ALTERNATE_OBJECT_DIRECTORIES', 'GIT_COMMON_DIR', 'GIT_NAMESPACE', 'GIT_EXTERNAL_DIFF') {
        $null = $start.Environment.Remove($name)
    }
    $start.Environment['GIT_DIR'] = $git
    $start.Environment['GIT_WORK_TREE'] = $dir
@ENVIRONMENT@    $start.UseShellExecute = $false
    $start.RedirectStandardInput = $true
    $start.RedirectStandardOutput = $true
    $start.RedirectStandardError = $true
    $process = [Diagnostics.Process]::Start($start)
    $process.StandardInput.Close()
    return @{ Of = $dir; Process = $process; Said = $process.StandardOutput.ReadToEndAsync(); Begun = [Diagnostics.Stopwatch]::StartNew() }
}
# Reads what git says.
function global:__wm_hears($ask) {
    $w = $global:__wm
    $lines = $ask.Said.Result.Split("`n", [StringSplitOptions]::RemoveEmptyEntries)
    foreach ($line in $lines) {
        if ($line.StartsWith('# branch.head ')) {
            # Where branches are kept in another way, the file that names them holds a name that is none.
            $w.Head = $line.Substring(14)
            $w.Dirty = ''
            foreach ($name in 'conflicts', 'staged', 'unstaged', 'untracked', 'stash', 'ahead', 'behind', 'added', 'removed') { $w[$name] = 0 }
        } elseif ($line -match '^# branch\.ab \+([0-9]+) -([0-9]+)$') {
            $w.ahead = [int]$Matches[1]
            $w.behind = [int]$Matches[2]
        } elseif ($line.StartsWith('# stash ')) {
            $w.stash = [int]$line.Substring(8)
        } elseif ($line.StartsWith(' ')) {
            # The lines added and removed.
            if ($line -match '([0-9]+) insertion') { $w.added = [int]$Matches[1] }
            if ($line -match '([0-9]+) deletion') { $w.removed = [int]$Matches[1] }
        } elseif ($line.StartsWith('#')) {
            continue
        } else {
            $w.Dirty = '1'
            if ($line.StartsWith('? ')) { $w.untracked += 1 }
            if ($line.StartsWith('u ')) { $w.conflicts += 1 }
            if ($line -match '^[12] ') {
                if ($line[2] -ne '.') { $w.staged += 1 }
                if ($line[3] -ne '.') { $w.unstaged += 1 }
            }
        }
    }
    if ($w.Dirty -ne 'u') { $w.Known = $w.Dirty }
}
# Waits for git no longer than a prompt may; what takes longer is heard by the next one.
function global:__wm_question([string]$git, [string]$dir) {
    $w = $global:__wm
    if ($w.KnownOf -cne $dir) {
        $w.KnownOf = $dir
        $w.Known = 'u'
    }
    $w.Dirty = 'u'
    if ($w.Ask) {
        if ($w.Ask.Process.HasExited) {
            if ($w.Ask.Of -ceq $dir) { __wm_hears $w.Ask }
            $w.Ask = $null
        } elseif ($w.Ask.Begun.Elapsed.TotalSeconds -gt @SECONDS@) {
            $w.Ask.Process.Kill($true)
            $w.Ask = $null
        }
    }
    if (-not $w.Ask) { $w.Ask = __wm_asks $git $dir }
    if ($w.Ask.Process.WaitForExit(@BUDGET@)) {
        $w.Dirty = 'u'
        if ($w.Ask.Of -ceq $dir) { __wm_hears $w.Ask }
        $w.Ask = $null
    } else {
        # It is told as it was.
        $w.Dirty = $w.Known
        $w.Stale = $w.Dirty -ne 'u'
    }
}
