//! How a change reaches what runs, and how that is asked: data, which the host acts upon.

use wealdmist_core::role::Slot;

/// A signal by which some programs read their files again, and by which most others end.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Told {
    /// The first of those that every program uses as it likes.
    User1,
}

/// How a change arrives.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reload {
    /// A signal makes it read its files again. Never sent to any other program: most end by it.
    Signal(Told),
    /// It watches its files.
    Watches,
    /// It is told on a socket of its own.
    Socket,
    /// Its windows take colors by escapes; all else with the next window.
    Escapes,
    /// Its windows are told the name of what they show, which they read anew where it is another than the one
    /// before: a name that is not it, then that of the file with an ending.
    Named {
        /// What begins such an escape.
        begin: &'static str,
        /// What ends it.
        end: &'static str,
        /// Names of others.
        others: [&'static str; 2],
        /// The ending of the file.
        ending: &'static str,
    },
    /// With its next start, or by what the person does.
    NextStart,
    /// With the next prompt.
    NextPrompt,
}

/// How a running program is asked what it shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Answers {
    /// It cannot be asked, but for the terminal we run in.
    Escapes,
    /// On the socket that a variable of its children names: by this request, answered with an object
    /// whose `data` are lines of a key and a color.
    RemoteControl {
        /// The variable.
        variable: &'static str,
        /// The request.
        request: &'static str,
    },
    /// By a command of its own that prints its settings as JSON.
    Command {
        /// The words before the socket's path.
        before: &'static [&'static str],
        /// The words behind it.
        after: &'static [&'static str],
        /// The variable of its children that names the socket.
        variable: &'static str,
        /// Settings that have another name there.
        renamed: &'static [(&'static str, &'static str)],
    },
    /// As its engine is: group by group, option by option, or by the note it leaves.
    Own,
}

/// How a program is asked what it would show, without a session of the person's: it is started for that, on
/// the person's own dotfiles, and says it in words of its own.
#[derive(Debug, Clone, Copy)]
pub struct Asking {
    /// The program.
    pub program: &'static str,
    /// What it is given; `{scratch}` is a folder of its own, `{file}` the first of the dotfiles.
    pub arguments: &'static [&'static str],
    /// A file that is there for it in the folder of its own: name and content.
    pub script: Option<(&'static str, &'static str)>,
    /// What it is given to end what is left of it.
    pub ends: &'static [&'static str],
    /// The answer, which stands behind the last record separator (U+001E) of what it printed, as a dotfile that
    /// says all of it plainly: its path below the home, and its text.
    pub dotfile: fn(&str) -> (&'static str, String),
}

/// All of it.
#[derive(Debug, Clone, Copy)]
pub struct Live {
    /// How a change arrives.
    pub reload: Reload,
    /// The same in a few words.
    pub arrives: &'static str,
    /// What only the program itself has loaded: a part of the name of a library.
    pub mark: Option<&'static str>,
    /// How the first word of a command line begins that makes it a command, not a terminal.
    pub commands: &'static [&'static str],
    /// A variable that it sets for the programs inside.
    pub inside: Option<&'static str>,
    /// Where its sockets are, as patterns: `{NAME:value}` stands for a variable or else a value, `{uid}`
    /// for the number of the user.
    pub sockets: &'static [&'static str],
    /// Options of its command line that name its file.
    pub file_options: &'static [&'static str],
    /// Options that take a value.
    pub value_options: &'static [&'static str],
    /// How it is asked.
    pub answers: Answers,
    /// How one is asked that is started for it.
    pub asking: Option<Asking>,
    /// The words of a command that gives its file to a server from which new windows take it.
    pub merges: Option<&'static [&'static str]>,
}

impl Live {
    /// One that is reached in a way of its own.
    #[must_use]
    pub const fn own(reload: Reload, arrives: &'static str) -> Self {
        Self {
            reload,
            arrives,
            mark: None,
            commands: &[],
            inside: None,
            sockets: &[],
            file_options: &[],
            value_options: &[],
            answers: Answers::Own,
            asking: None,
            merges: None,
        }
    }

    /// The variables whose values its sockets depend on.
    pub fn variables(&self) -> impl Iterator<Item = &'static str> {
        let named = self
            .sockets
            .iter()
            .flat_map(|pattern| pattern.split('{').skip(1));
        named.filter_map(|part| Some(part.split_once('}')?.0.split_once(':')?.0))
    }
}

/// The escape targets of the palette: slots and dynamic colors.
#[must_use]
pub fn osc_targets() -> Vec<(Result<u8, u16>, Slot)> {
    let slots = (0..16u8).filter_map(|i| Some((Ok(i), Slot::from_ansi(i)?)));
    let dynamic = [
        (Err(10), Slot::Foreground),
        (Err(11), Slot::Background),
        (Err(12), Slot::Cursor),
        (Err(17), Slot::Selection),
        (Err(19), Slot::SelectionText),
    ];
    slots.chain(dynamic).collect()
}
