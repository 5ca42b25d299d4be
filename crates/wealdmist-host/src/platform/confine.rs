//! A process that takes rights from itself before it becomes another program: it may write in one folder,
//! and reach no network and no process outside.

use std::io;
use std::path::Path;

use landlock::{
    ABI, Access, AccessFs, AccessNet, CompatLevel, Compatible, PathBeneath, PathFd, Ruleset,
    RulesetAttr, RulesetCreatedAttr, RulesetStatus, Scope,
};

/// Takes from this process, as far as the system lets it, the right to write anywhere but in a folder and in
/// devices, to use TCP, and to signal others. Whether the system enforces anything of it.
///
/// # Errors
/// When the folder or that of the devices cannot be opened.
pub fn confine(folder: &Path) -> io::Result<bool> {
    let abi = ABI::V6;
    let write = AccessFs::from_write(abi);
    let device = AccessFs::WriteFile | AccessFs::Truncate | AccessFs::IoctlDev;
    let open = |path: &Path| PathFd::new(path).map_err(io::Error::other);
    let (folder, devices) = (open(folder)?, open(Path::new("/dev"))?);
    let rules = || -> Result<_, landlock::RulesetError> {
        let status = Ruleset::default()
            .set_compatibility(CompatLevel::BestEffort)
            .handle_access(write)?
            .handle_access(AccessNet::from_all(abi))?
            .scope(Scope::from_all(abi))?
            .create()?
            .add_rule(PathBeneath::new(folder, write))?
            .add_rule(PathBeneath::new(devices, device))?
            .restrict_self()?;
        Ok(status.ruleset != RulesetStatus::NotEnforced)
    };
    // A system that refuses the request enforces none of it.
    Ok(rules().unwrap_or(false))
}
