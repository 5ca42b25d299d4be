# Drawn by PowerShell itself and git; `wealdmist apply` writes this file anew.
$global:__wm = @{ File = @FILE@; Colors = $true; Known = ''; KnownOf = ''; Ask = $null; Seen = 0; Versions = @{} }
$global:__wm.Line = [IO.StreamReader]::new($global:__wm.File).ReadLine()
# The colors of the roles, by how many colors the terminal has.
if ($env:NO_COLOR -or $env:TERM -eq 'dumb') {
@NONE@} elseif ($IsWindows -or $env:COLORTERM -eq 'truecolor' -or $env:COLORTERM -eq '24bit') {
@DEEP@} elseif ($env:TERM -match '^(linux|ansi|vt[0-9].*|.*-16color)$') {
@FEW@} else {
@FLAT@}
# Which parts stand on which ground.
$global:__wm.Block = @BLOCKS@
if (-not $global:__wm.Colors) { $global:__wm.Block = @NOBLOCKS@ }
# How a text is put into a color.
$global:__wm.A = ''
$global:__wm.M = ''
$global:__wm.Zero = ''
if ($global:__wm.Colors) {
    $global:__wm.A = "`e[0;"
    $global:__wm.M = 'm'
    $global:__wm.Zero = "`e[0m"
}
# What joins them.
@SHAPES@$global:__wm.Remote = "$env:SSH_CONNECTION$env:SSH_TTY"
$global:__wm.User = ''
if ($IsWindows) {
    $global:__wm.Root = ([Security.Principal.WindowsPrincipal][Security.Principal.WindowsIdentity]::GetCurrent()).IsInRole('Administrators')
} else {
    $global:__wm.User = (id -u)
    $global:__wm.Groups = (id -G).Split(' ')
    $global:__wm.Root = $global:__wm.User -eq '0'
}
# What a terminal would act on becomes a question mark.
function global:__wm_clean([string]$text) {
    $global:__wm.Text = $text -replace '[\x00-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069]', '?'
}
# The first so many characters of a text; 0 keeps all.
function global:__wm_cut([string]$text, [int]$most) {
    if ($most -gt 0 -and $text.Length -gt $most) {
        $letters = @($text.EnumerateRunes())
        if ($letters.Length -gt $most) { $text = ($letters[0..($most - 1)] -join '') + @ELIDED@ }
    }
    $global:__wm.Text = $text
}
function global:__wm_cells([string]$text) {
    $global:__wm.Cells = $Host.UI.RawUI.LengthInBufferCells($text)
}
__wm_clean ([Environment]::UserName)
$global:__wm.Name = $global:__wm.Text
__wm_clean ([Environment]::MachineName.Split('.')[0])
$global:__wm.Machine = $global:__wm.Text
# Whether a file or folder is where one is.
function global:__wm_there([string]$name) {
    $path = [IO.Path]::Combine($global:__wm.Folder, $name)
    return [IO.File]::Exists($path) -or [IO.Directory]::Exists($path)
}
@BEGIN@# The folder: its last parts, or those below a repository, and its last alone.
function global:__wm_folder([int]$keep, [int]$below, [bool]$begins) {
    $w = $global:__wm
    __wm_clean $w.Folder
    $shown = $w.Text
    __wm_clean $HOME
    $own = $w.Text
    if ($IsWindows) {
        $shown = $shown.Replace('\', '/')
        $own = $own.Replace('\', '/')
    }
    if ($own -and $shown -ceq $own) {
        $shown = '~'
    } elseif ($own -and $shown.StartsWith("$own/", [StringComparison]::Ordinal)) {
        $shown = '~' + $shown.Substring($own.Length)
    }
    $parts = $shown.Split('/', [StringSplitOptions]::RemoveEmptyEntries)
    $w.DirLast = $shown
    if ($parts.Length -gt 0) { $w.DirLast = $parts[-1] }
    $from = 0
    if ($below -ge 0) {
        $from = [Math]::Max(0, $parts.Length - $below - 1)
        $shown = $parts[$from..($parts.Length - 1)] -join '/'
    }
    $first = $parts.Length - $keep
    if ($keep -gt 0 -and $first -gt $from) {
        $rest = $parts[$first..($parts.Length - 1)] -join '/'
        $shown = @ELIDED@ + '/' + $rest
@BEGINS@    }
    $w.Dir = $shown
}
@FACTS@# Adds a text in a color.
function global:__wm_add([string]$ink, [string]$text) {
    $w = $global:__wm
    $w.Plain += $text
    $w.Out += $w.A + $ink + $w.M + $text
}
# Adds a text in none.
function global:__wm_bare([string]$text) {
    $w = $global:__wm
    $w.Plain += $text
    $w.Out += $w.Zero + $text
}
# A row of parts with what joins them; the first word tells whether it begins at the left edge.
function global:__wm_run([bool]$right, $list) {
    $w = $global:__wm
    $w.Out = ''
    $w.Plain = ''
    $was = 0
    foreach ($i in $list) {
        $text = $w.Shown[$i]
        if (-not $text) { continue }
        $on = $w.Block[$i]
        if ($was -eq 0 -and $on -eq 0) {
            if ($w.Plain) { __wm_add $w.c_between $w.Gap }
        } elseif ($was -eq 0) {
            if ($w.Plain) { __wm_bare ' ' }
            if ($w.Open) { __wm_add $w.Edge[$on] $w.Open }
        } elseif ($on -eq 0) {
            if ($w.Close) { __wm_add $w.Edge[$was] $w.Close }
            __wm_bare ' '
        } elseif ($w.JointRight -eq ' ') {
            __wm_bare ' '
        } elseif ($was -eq $on) {
            $thin = $w.ThinLeft
            if ($right) { $thin = $w.ThinRight }
            __wm_add ($w.Ink[$i] + ';' + $w.Ground[$on]) $thin
        } elseif ($right) {
            if ($w.JointRight) { __wm_add ($w.Edge[$was] + ';' + $w.Ground[$on]) $w.JointRight }
        } else {
            if ($w.JointLeft) { __wm_add ($w.Edge[$on] + ';' + $w.Ground[$was]) $w.JointLeft }
        }
        if ($on -eq 0) {
            __wm_add $w.Ink[$i] $text
        } else {
            __wm_add ($w.Ink[$i] + ';' + $w.Ground[$on]) (' ' + $text + ' ')
        }
        $was = $on
    }
    if ($was -ne 0 -and $w.Close) { __wm_add $w.Edge[$was] $w.Close }
    __wm_cells $w.Plain
}
# Whether left and right have room beside one another.
function global:__wm_fits($line) {
    $w = $global:__wm
    __wm_run $false $line.Right
    $w.RightOut = $w.Out
    $w.RightCells = $w.Cells
    __wm_run $true $line.Left
    $w.LeftCells = $w.Cells
    $cells = $w.LeftCells + $w.RightCells
    if ($w.LeftCells -gt 0 -and $w.RightCells -gt 0) { $cells += 1 }
    return $cells -le $line.Room
}
# Lays out a line; its last word tells which part stays where one types.
function global:__wm_lay($line) {
    $w = $global:__wm
    $all = $line.Left + $line.Right
    foreach ($i in $all) { $w.Shown[$i] = $w.Full[$i] }
    if (__wm_fits $line) { return }
    foreach ($i in $all) { $w.Shown[$i] = $w.Short[$i] }
    foreach ($i in $line.Order) {
        if (__wm_fits $line) { return }
        $w.Shown[$i] = ''
    }
    if (__wm_fits $line) { return }
    foreach ($i in $all) {
        if ($w.Last[$i]) { $w.Shown[$i] = $w.Last[$i] }
    }
    if (__wm_fits $line) { return }
    foreach ($i in $line.Right) { $w.Shown[$i] = '' }
    if (__wm_fits $line) { return }
    foreach ($i in $line.Left) {
        if ($i -ne $line.Stays) { $w.Shown[$i] = '' }
    }
    $null = __wm_fits $line
}
# A line whose right part stands at the edge.
function global:__wm_stretched([int]$width) {
    $w = $global:__wm
    if ($w.LeftCells + $w.RightCells -eq 0) { return }
    if ($w.RightCells -gt 0) {
        $room = [Math]::Max(0, $width - $w.LeftCells - $w.RightCells)
        if ($w.Stretch -eq ' ' -or $room -lt 3) {
            __wm_bare (' ' * $room)
        } else {
            __wm_bare ' '
            __wm_add $w.c_between ($w.Stretch * ($room - 2))
            __wm_bare ' '
        }
        $w.Out += $w.RightOut
    }
    # A ground ends with its line.
    $w.Out += $w.Zero
    $w.Rows += , $w.Out
}
function global:__wm_draw {
    $w = $global:__wm
    $location = $ExecutionContext.SessionState.Path.CurrentLocation
    $w.Folder = $location.ProviderPath
    if (-not $w.Folder) { $w.Folder = $location.Path }
    $columns = $Host.UI.RawUI.WindowSize.Width
    $w.Full = @{}
    $w.Short = @{}
    $w.Last = @{}
    $w.Shown = @{}
    $w.Ink = @{}
    $w.Rows = @()
@BEFORE@@DRAWN@}
function global:prompt {
    $ok = $?
    $code = $global:LASTEXITCODE
    $w = $global:__wm
    $new = ''
    if ([IO.File]::Exists($w.File)) {
        $reader = [IO.StreamReader]::new($w.File)
        $new = $reader.ReadLine()
        $reader.Dispose()
    }
    if ($new -and $new -cne $w.Line) {
        . $w.File
        $w = $global:__wm
    }
    $last = Get-History -Count 1
    $w.Took = -1
    if ($last -and $last.Id -ne $w.Seen) {
        if ($w.Seen -gt 0) { $w.Took = ($last.EndExecutionTime - $last.StartExecutionTime).TotalMilliseconds }
        $w.Seen = $last.Id
    }
    # What failed is a program, or else a command of the shell's own, which has no number.
    $w.Status = 0
    if (-not $ok) {
        $w.Status = 1
        $own = $Error.Count -gt 0 -and $last -and $Error[0].InvocationInfo.HistoryId -eq $last.Id
        if ($code -and -not $own) { $w.Status = $code }
    }
    __wm_draw
    $global:LASTEXITCODE = $code
    return $w.Zero + ($w.Rows -join "`n") + $w.Zero + ' '
}
@STARTS@if (Get-Module -Name PSReadLine) {
    Set-PSReadLineOption -ExtraPromptLineCount @EXTRA@ -ContinuationPrompt @MORE@ -Colors @{ ContinuationPrompt = $global:__wm.A + $global:__wm.c_between + $global:__wm.M }
}
$global:__wm.Notes = "$HOME/.local/state"
if ($env:XDG_STATE_HOME) { $global:__wm.Notes = $env:XDG_STATE_HOME }
$global:__wm.Notes = [IO.Path]::Combine($global:__wm.Notes, 'wealdmist/shells')
$null = [IO.Directory]::CreateDirectory($global:__wm.Notes)
[IO.File]::WriteAllText([IO.Path]::Combine($global:__wm.Notes, "$PID"), $global:__wm.Line + "`n")
