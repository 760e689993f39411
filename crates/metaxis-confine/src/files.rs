//! Files, by Landlock (linux/Documentation/userspace-api/landlock.rst).

use crate::Bounds;
use anyhow::Result;
use landlock::{
    ABI, Access, AccessFs, AccessNet, CompatLevel, Compatible, Ruleset, RulesetAttr, RulesetCreatedAttr,
    Scope, path_beneath_rules,
};
use std::path::{Path, PathBuf};

/// The newest form of the rules; older kernels leave out what they do not know.
const FORM: ABI = ABI::V6;

/// What every program needs: its libraries, where they are, the clock's zone, and devices that hold nothing.
const SYSTEM: [&str; 15] = [
    "/usr",
    "/opt",
    "/nix/store",
    "/gnu/store",
    "/lib",
    "/lib32",
    "/lib64",
    "/bin",
    "/etc/ld.so.cache",
    "/etc/alternatives",
    "/etc/localtime",
    "/dev/zero",
    "/dev/urandom",
    "/proc/cpuinfo",
    "/sys/devices/system/cpu",
];

pub(crate) fn are_offered() -> bool {
    Ruleset::default()
        .set_compatibility(CompatLevel::HardRequirement)
        .handle_access(AccessFs::from_all(ABI::V1))
        .and_then(|rules| rules.create())
        .is_ok()
}

pub(crate) fn confine(bounds: &Bounds) -> Result<()> {
    let system = SYSTEM.iter().map(PathBuf::from).chain(bounds.program.as_deref().and_then(home));
    Ruleset::default()
        .handle_access(AccessFs::from_all(FORM))?
        .handle_access(AccessNet::from_all(FORM))?
        .scope(Scope::from_all(FORM))?
        .create()?
        .add_rules(path_beneath_rules(system, AccessFs::from_read(FORM)))?
        .add_rules(path_beneath_rules(&bounds.read, AccessFs::ReadFile | AccessFs::ReadDir))?
        .add_rules(path_beneath_rules(&bounds.write, AccessFs::from_all(FORM) & !AccessFs::Execute))?
        .add_rules(path_beneath_rules(["/dev/null"], AccessFs::ReadFile | AccessFs::WriteFile))?
        .restrict_self()?;
    Ok(())
}

/// Where a program and its libraries are, for one that is not the system's: the folder above that of the program.
fn home(program: &Path) -> Option<PathBuf> {
    program.ancestors().nth(2).filter(|folder| folder.components().count() > 1).map(Path::to_owned)
}
