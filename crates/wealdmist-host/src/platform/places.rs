//! Places that the system gives.

use std::path::PathBuf;

/// What is read as empty and takes everything.
pub(crate) const NOTHING: &str = "/dev/null";

/// The system's font configuration, where no variable names another.
pub(crate) const FONT_CONFIGURATION: &str = "/etc/fonts/fonts.conf";

/// The name of the machine.
pub(crate) fn host_name() -> String {
    rustix::system::uname()
        .nodename()
        .to_string_lossy()
        .into_owned()
}

/// The folders in which the system keeps fonts, whatever its configuration says.
pub(crate) fn font_folders() -> [PathBuf; 2] {
    ["/usr/local/share/fonts", "/usr/share/fonts"].map(PathBuf::from)
}

/// The folders in which the system keeps what programs bring with them.
pub(crate) fn data_folders() -> [PathBuf; 2] {
    ["/usr/local/share", "/usr/share"].map(PathBuf::from)
}
