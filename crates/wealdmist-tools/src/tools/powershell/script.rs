//! The script that draws the prompt in PowerShell, made from the design part by part.

use wealdmist_core::color::Depth;
use wealdmist_core::look::Look;
use wealdmist_core::prompt::{Design, FOR_TYPING, Kind, Part, place, ties};
use wealdmist_core::quote::{Code, Quoting, quote};
use wealdmist_core::setup::Setup;

use super::POWERSHELL;
use super::parts::part_code;
use crate::sourced::painted::{DEPTHS, Painted};
use crate::sourced::repository;
use crate::sourced::told::{joins, numbered};

/// A text of the design as a word of the shell.
pub(super) fn word(text: &str) -> Code {
    let text = quote(text, &[Quoting::PowerShell]).unwrap_or_default();
    Code::of("'{}'", &[&text])
}

pub(super) fn whole(n: usize) -> Code {
    Code::whole(n as u64)
}

/// The script of a setup; `path` is the file it stands in.
pub fn script(setup: &Setup, look: &Look, path: &Code) -> Code {
    let painted = Painted::new(setup, look, POWERSHELL.id);
    let design = &painted.design;
    let [deep, flat, few] = DEPTHS.map(|depth| colors(&painted, depth));
    let list = |entries: Vec<Code>| Code::of("@({})", &[&Code::join(&entries, ", ")]);
    // Parts are numbered from one on.
    let zero = || std::iter::once(Code::fixed("0"));
    let grounds = design.parts().map(|p| Code::whole(painted.ground(p)));
    let grounds = list(zero().chain(grounds).collect());
    let none = list(
        zero()
            .chain(design.parts().map(|_| Code::fixed("0")))
            .collect(),
    );
    let [begin, begins] = match design.parts().any(|p| p.tells.beginnings) {
        true => [BEGIN, BEGINS],
        false => ["", ""],
    };
    let extra = design.lines.len() - 1 + usize::from(design.blank);
    let mut more = word(&design.more[place(design.level)]);
    more = Code::of("({} + ' ')", &[&more]);
    let parts = [
        ("@FILE@", path.clone()),
        ("@DEEP@", deep),
        ("@FLAT@", flat),
        ("@FEW@", few),
        ("@NONE@", colors(&painted, Depth::None)),
        ("@BLOCKS@", grounds),
        ("@NOBLOCKS@", none),
        ("@SHAPES@", shapes(design)),
        ("@BEGIN@", Code::fixed(begin)),
        ("@BEGINS@", Code::fixed(begins)),
        ("@FACTS@", facts(&painted)),
        (
            "@BEFORE@",
            Code::fixed(match painted.asks_repository() {
                true => "    __wm_git\n",
                false => "",
            }),
        ),
        ("@DRAWN@", drawn(&painted)),
        (
            "@STARTS@",
            Code::fixed(match design.has(Kind::System) {
                true => SYSTEM,
                false => "",
            }),
        ),
        ("@ELIDED@", word(&design.elided)),
        ("@EXTRA@", whole(extra)),
        ("@MORE@", more),
    ];
    Code::filled(include_str!("prompt.ps1"), &parts)
}

/// The colors at a depth, each in a variable.
fn colors(painted: &Painted<'_>, depth: Depth) -> Code {
    let mut out = Code::default();
    for (name, code) in painted.text_colors(depth) {
        out.push(&Code::of("    $global:__wm.{} = '{}'\n", &[&name, &code]));
    }
    let (mut grounds, mut edges) = (vec![Code::fixed("''")], vec![Code::fixed("''")]);
    if depth == Depth::None {
        out.push_fixed("    $global:__wm.Colors = $false\n");
    } else {
        for (ground, edge) in painted.ground_colors(depth) {
            grounds.push(Code::of("'{}'", &[&ground]));
            edges.push(Code::of("'{}'", &[&edge]));
        }
    }
    for (name, all) in [("Ground", grounds), ("Edge", edges)] {
        out.push(&Code::of(
            "    $global:__wm.{} = @({})\n",
            &[&Code::fixed(name), &Code::join(&all, ", ")],
        ));
    }
    out
}

/// What joins parts.
fn shapes(design: &Design) -> Code {
    let names = [
        "Gap",
        "JointRight",
        "JointLeft",
        "ThinRight",
        "ThinLeft",
        "Open",
        "Close",
        "Stretch",
    ];
    let mut out = Code::default();
    for (name, text) in names.into_iter().zip(joins(design, word)) {
        out.push(&Code::of(
            "$global:__wm.{} = {}\n",
            &[&Code::fixed(name), &text],
        ));
    }
    out
}

/// The functions that find out what parts tell.
fn facts(painted: &Painted<'_>) -> Code {
    let design = &painted.design;
    let mut out = Code::default();
    if painted.asks_repository() {
        out.push(&asking(painted));
    }
    let asks_version = |p: &Part| p.tells.version && !p.tells.asks.is_empty();
    let tells_time = |p: &Part| matches!(p.kind, Kind::Time | Kind::Date);
    for (is_needed, code) in [
        (design.parts().any(asks_version), VERSION),
        (design.parts().any(tells_time), NOW),
        (design.has(Kind::Duration), SPAN),
        (design.has(Kind::Locked), WRITABLE),
        (design.has(Kind::Battery), BATTERY),
        (design.has(Kind::Memory), MEMORY),
        (design.has(Kind::Load), LOAD),
    ] {
        if is_needed {
            out.push_fixed(code);
        }
    }
    out
}

/// The functions that find the repository and ask git, as `repository` allows.
fn asking(painted: &Painted<'_>) -> Code {
    let inert = |text: &str| quote(text, &[Quoting::Inert]).unwrap_or_default();
    let refused: Vec<Code> = repository::REFUSED
        .iter()
        .map(|text| match text.strip_prefix('[') {
            Some(rest) => Code::of("\\[{}", &[&inert(rest)]),
            None => inert(text),
        })
        .collect();
    let mut environment = Code::default();
    for (name, value) in repository::ENVIRONMENT {
        environment.push(&Code::of(
            "    $start.Environment['{}'] = '{}'\n",
            &[&Code::fixed(name), &inert(value)],
        ));
    }
    let counted = painted.counted();
    let asked = repository::asked(&counted);
    let of = |mark: &str| {
        let found = asked.iter().find(|(known, _)| *known == mark);
        found.map_or(Code::default(), |(_, code)| code.clone())
    };
    // Git has a shell for its aliases on every system.
    let asks = match counted.iter().any(|item| item.is_of_lines()) {
        true => Code::of("@('-c', 'alias.both=!{}', 'both')", &[&of("@BOTH@")]),
        false => Code::of("'{}'.Split(' ')", &[&of("@QUESTION@")]),
    };
    let marks = [
        ("@CONFIGURATION@", of("@CONFIGURATION@")),
        ("@REFUSED@", Code::join(&refused, "|")),
        ("@ARGUMENTS@", of("@ARGUMENTS@")),
        ("@ASKS@", asks),
        ("@ENVIRONMENT@", environment),
        ("@SECONDS@", Code::whole(repository::SECONDS)),
        ("@BUDGET@", Code::whole(repository::BUDGET_MS)),
    ];
    let (asks, asked) = match painted.asks_changes() {
        true => (
            Code::filled(include_str!("asked.ps1"), &marks),
            Code::fixed(ASKED),
        ),
        false => (Code::default(), Code::default()),
    };
    let operation = match painted.design.has(Kind::Operation) {
        true => OPERATION,
        false => "",
    };
    Code::filled(
        include_str!("git.ps1"),
        &[
            ("@HARMLESS@", asks),
            ("@ASKED@", asked),
            ("@OPERATION@", Code::fixed(operation)),
        ],
    )
}

/// The lines of the design.
fn drawn(painted: &Painted<'_>) -> Code {
    let design = &painted.design;
    let mut out = Code::default();
    for (i, part) in design.parts().enumerate() {
        out.push(&part_code(painted, part, i + 1));
    }
    let tied = design.tie && design.lines.len() > 1;
    let mut first = 1;
    for (n, line) in design.lines.iter().enumerate() {
        let is_last = n + 1 == design.lines.len();
        let numbers = |from: usize, count: usize| -> Code {
            let all: Vec<Code> = (from..from + count).map(whole).collect();
            Code::join(&all, ", ")
        };
        let [_, _, order] = numbered(line, first);
        let order = order.lossy();
        let order: Vec<Code> = order
            .split(' ')
            .filter_map(|n| n.parse().ok())
            .map(whole)
            .collect();
        let (l, r) = (line.left.len(), line.right.len());
        let tie = Code::fixed(if tied { " - 2" } else { "" });
        let typing = Code::of(" - [Math]::Floor($columns / {})", &[&whole(FOR_TYPING)]);
        let typing = if is_last { typing } else { Code::default() };
        let stays = if is_last { first + l - 1 } else { 0 };
        out.push(&Code::of(
            "    __wm_lay @{ Left = @({}); Right = @({}); Order = @({}); Room = $columns{} - 1{}; Stays = {} }\n",
            &[
                &numbers(first, l),
                &numbers(first + l, r),
                &Code::join(&order, ", "),
                &typing,
                &tie,
                &whole(stays),
            ],
        ));
        match is_last {
            true => out.push_fixed(LAST),
            false => out.push(&Code::of("    __wm_stretched ($columns - 1{})\n", &[&tie])),
        }
        first += l + r;
    }
    if tied {
        out.push(&Code::of(
            TIES,
            &ties(design.level).map(Code::fixed).each_ref(),
        ));
    }
    if design.blank {
        out.push_fixed("    $w.Rows = @('') + $w.Rows\n");
    }
    out
}

/// The line where one types: its right part is put at the edge, and the cursor comes back.
const LAST: &str = r#"    $beside = ''
    if ($w.RightCells -gt 0) { $beside = "`e7`e[" + ($columns - $w.RightCells) + 'G' + $w.RightOut + $w.Zero + "`e8" }
    $w.Rows += , ($beside + $w.Out)
"#;

const TIES: &str = "    $count = $w.Rows.Length
    if ($count -gt 1) {
        $begin = $w.A + $w.c_between + $w.M
        for ($i = 0; $i -lt $count; $i++) {
            $tie = '{}'
            if ($i -gt 0) { $tie = '{}' }
            if ($i -eq $count - 1) { $tie = '{}' }
            $w.Rows[$i] = $begin + $tie + $w.Rows[$i]
        }
    }
";

const ASKED: &str = r"    $common = $git
    $path = [IO.Path]::Combine($git, 'commondir')
    if ([IO.File]::Exists($path)) { $common = [IO.Path]::Combine($git, (__wm_first $path)) }
    $w.Dirty = 'u'
    if ((__wm_own $dir) -and (__wm_own $git) -and (__wm_own $common) -and (__wm_harmless ([IO.Path]::Combine($common, 'config'))) -and (__wm_harmless ([IO.Path]::Combine($git, 'config.worktree')))) {
        __wm_question $git $dir
        if ($name -eq '.invalid' -and $w.Head) { $name = $w.Head }
    }
";

/// What git is in the middle of.
const OPERATION: &str = r"    $steps = ''
    if ([IO.Directory]::Exists([IO.Path]::Combine($git, 'rebase-merge'))) {
        $w.Doing = 'rebase'
        $steps = 'rebase-merge/msgnum rebase-merge/end'
    } elseif ([IO.File]::Exists([IO.Path]::Combine($git, 'rebase-apply/rebasing'))) {
        $w.Doing = 'rebase'
        $steps = 'rebase-apply/next rebase-apply/last'
    } elseif ([IO.Directory]::Exists([IO.Path]::Combine($git, 'rebase-apply'))) {
        $w.Doing = 'am'
        $steps = 'rebase-apply/next rebase-apply/last'
    } elseif ([IO.File]::Exists([IO.Path]::Combine($git, 'MERGE_HEAD'))) {
        $w.Doing = 'merge'
    } elseif ([IO.File]::Exists([IO.Path]::Combine($git, 'CHERRY_PICK_HEAD'))) {
        $w.Doing = 'pick'
    } elseif ([IO.File]::Exists([IO.Path]::Combine($git, 'REVERT_HEAD'))) {
        $w.Doing = 'revert'
    } elseif ([IO.File]::Exists([IO.Path]::Combine($git, 'BISECT_LOG'))) {
        $w.Doing = 'bisect'
    }
    if ($steps) {
        $names = $steps.Split(' ')
        $at = __wm_first ([IO.Path]::Combine($git, $names[0]))
        $of = __wm_first ([IO.Path]::Combine($git, $names[1]))
        if ($at -match '^[0-9]{1,9}$' -and $of -match '^[0-9]{1,9}$') { $w.Steps = ' ' + $at + '/' + $of }
    }
";

/// Shortens the names of folders that are left out.
const BEGIN: &str = r"# The names of what is left out, each by as many letters as tell it from those beside it.
function global:__wm_begin($names, [int]$kept) {
    $path = $global:__wm.Folder
    for ($n = 0; $n -lt $kept; $n++) { $path = [IO.Path]::GetDirectoryName($path) }
    $out = @()
    for ($i = $names.Length - 1; $i -ge 0; $i--) {
        $begin = $names[$i]
        $name = [IO.Path]::GetFileName($path)
        $parent = [IO.Path]::GetDirectoryName($path)
        if ($begin -ne '~' -and $name -and $parent) {
            $begin = $name
            $letters = @($name.EnumerateRunes())
            $least = 1
            if ($name.StartsWith('.')) { $least = 2 }
            for ($n = $least; $n -lt $letters.Length; $n++) {
                $start = $letters[0..($n - 1)] -join ''
                try {
                    $beside = @([IO.Directory]::EnumerateDirectories($parent))
                } catch {
                    break
                }
                $alike = @($beside.Where({ [IO.Path]::GetFileName($_).StartsWith($start, [StringComparison]::Ordinal) }))
                if ($alike.Length -eq 1) {
                    $begin = $start
                    break
                }
            }
        }
        __wm_clean $begin
        $out = @($global:__wm.Text) + $out
        $path = $parent
    }
    $global:__wm.Text = $out -join '/'
}
";

/// Has them shortened.
const BEGINS: &str = r"        if ($begins) {
            __wm_begin @($parts[$from..($first - 1)]) $keep
            $root = ''
            if ($below -lt 0 -and $w.Folder.StartsWith('/') -and $parts[0] -ne '~') { $root = '/' }
            $shown = $root + $w.Text + '/' + $rest
        }
";

/// A program's version, kept until the program is another one; asked for in the background.
const VERSION: &str = r#"function global:__wm_version([string]$program, $arguments) {
    $w = $global:__wm
    $w.Text = ''
    $path = ''
    foreach ($folder in "$env:PATH".Split([IO.Path]::PathSeparator)) {
        $one = [IO.Path]::Combine($folder, $program)
        if ($folder -and [IO.File]::Exists($one)) {
            $path = $one
            break
        }
    }
    if (-not $path) { return }
    $cache = "$HOME/.cache"
    if ($env:XDG_CACHE_HOME) { $cache = $env:XDG_CACHE_HOME }
    $kept = [IO.Path]::Combine($cache, 'wealdmist/versions', $program)
    if ([IO.File]::Exists($kept)) {
        __wm_clean ([IO.StreamReader]::new($kept).ReadLine())
        if ($w.Text) { $w.Text = ' ' + $w.Text }
        if ([IO.File]::GetLastWriteTimeUtc($path) -le [IO.File]::GetLastWriteTimeUtc($kept)) { return }
    }
    # A program that has not answered yet is not asked again.
    $asked = $path + [IO.File]::GetLastWriteTimeUtc($path).Ticks
    if ($w.Versions[$asked] -or $IsWindows) { return }
    $w.Versions[$asked] = $true
    $start = [Diagnostics.ProcessStartInfo]::new('sh')
    $script = 'mkdir -p "${1%/*}" && "$2" "$3" 2>&1 </dev/null | grep -oE "[0-9]+([.][0-9]+)+" | head -n 1 >"$1.$$" && mv -f "$1.$$" "$1"'
    foreach ($word in @('-c', $script, 'sh', $kept, $path) + $arguments) { $start.ArgumentList.Add($word) }
    $start.RedirectStandardOutput = $true
    $start.RedirectStandardError = $true
    $null = [Diagnostics.Process]::Start($start)
}
"#;

/// The time, whatever the language of the machine.
const NOW: &str = "function global:__wm_now([string]$format) {
    return [DateTime]::Now.ToString($format, [Globalization.CultureInfo]::InvariantCulture).ToLowerInvariant()
}
";

/// A duration in words.
const SPAN: &str = r"function global:__wm_span($took) {
    $w = $global:__wm
    $s = [Math]::Floor($took / 1000)
    $m = [Math]::Floor($s / 60)
    if ($s -lt 10) {
        $w.Text = '' + $s + '.' + [Math]::Floor($took % 1000 / 100) + 's'
    } elseif ($s -lt 60) {
        $w.Text = '' + $s + 's'
    } elseif ($s -lt 3600) {
        $w.Text = '' + $m + 'm ' + ($s % 60) + 's'
    } else {
        $w.Text = '' + [Math]::Floor($s / 3600) + 'h ' + ($m % 60) + 'm'
    }
}
";

/// Whether one may write where one is.
const WRITABLE: &str = r#"function global:__wm_writable {
    $w = $global:__wm
    if ($w.Root -or $IsWindows) { return $true }
    $stat = (Get-Item -LiteralPath $w.Folder -Force).UnixStat
    if (-not $stat) { return $true }
    $mode = [int]$stat.Mode
    if ("$($stat.UserId)" -eq $w.User) { return ($mode -band 128) -ne 0 }
    if ($w.Groups -contains "$($stat.GroupId)") { return ($mode -band 16) -ne 0 }
    return ($mode -band 2) -ne 0
}
"#;

const BATTERY: &str = "function global:__wm_battery {
    if (-not [IO.Directory]::Exists('/sys/class/power_supply')) { return '' }
    foreach ($one in [IO.Directory]::GetDirectories('/sys/class/power_supply')) {
        $path = [IO.Path]::Combine($one, 'capacity')
        if ([IO.File]::Exists($path)) { return [IO.File]::ReadAllText($path).Trim() }
    }
    return ''
}
";

const MEMORY: &str = r"function global:__wm_memory {
    if (-not [IO.File]::Exists('/proc/meminfo')) { return 0 }
    $text = [IO.File]::ReadAllText('/proc/meminfo')
    if ($text -notmatch '(?s)MemTotal:\s+([0-9]+).*MemAvailable:\s+([0-9]+)') { return 0 }
    return [int][Math]::Floor(([long]$Matches[1] - [long]$Matches[2]) * 100 / [long]$Matches[1])
}
";

const LOAD: &str = "function global:__wm_load {
    if (-not [IO.File]::Exists('/proc/loadavg')) { return '' }
    return [IO.File]::ReadAllText('/proc/loadavg').Split(' ')[0]
}
";

/// The system's short name.
const SYSTEM: &str = r#"$global:__wm.System = ''
if ($IsWindows) {
    $global:__wm.System = 'windows'
} elseif ([IO.File]::Exists('/etc/os-release') -and [IO.File]::ReadAllText('/etc/os-release') -match '(?m)^ID="?([^"\n]*)') {
    __wm_clean $Matches[1]
    $global:__wm.System = $global:__wm.Text
}
"#;
