//! Places that the system gives.

use std::fs;
use std::path::PathBuf;

use crate::files::read_regular;
use crate::limits;

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

/// Per cent left of the battery, where there is one.
pub(crate) fn battery() -> Option<u8> {
    let supplies = fs::read_dir("/sys/class/power_supply").ok()?;
    supplies.flatten().find_map(|supply| {
        let said = |name: &str| {
            let bytes = read_regular(&supply.path().join(name), limits::SYSTEM_FACT).ok()??;
            String::from_utf8(bytes).ok()
        };
        let is_own = said("scope").is_none_or(|s| s.trim() != "Device");
        (is_own && said("type")?.trim() == "Battery").then_some(())?;
        said("capacity")?.trim().parse().ok()
    })
}

/// The folders in which the system keeps fonts, whatever its configuration says.
pub(crate) fn font_folders() -> [PathBuf; 2] {
    ["/usr/local/share/fonts", "/usr/share/fonts"].map(PathBuf::from)
}

/// The folders in which the system keeps what programs bring with them.
pub(crate) fn data_folders() -> [PathBuf; 2] {
    ["/usr/local/share", "/usr/share"].map(PathBuf::from)
}
