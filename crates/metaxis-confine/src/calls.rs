//! System calls, by seccomp: what no reader of files needs is refused.

use anyhow::Result;
use nix::libc;
use seccompiler::{
    BpfProgram, SeccompAction, SeccompCmpArgLen, SeccompCmpOp, SeccompCondition, SeccompFilter, SeccompRule,
    apply_filter,
};
use std::{collections::BTreeMap, env::consts::ARCH, fs};

/// No network, no other processes, and nothing of the kernel's own.
const NEVER: [libc::c_long; 34] = [
    libc::SYS_socket,
    libc::SYS_socketpair,
    libc::SYS_connect,
    libc::SYS_bind,
    libc::SYS_listen,
    libc::SYS_accept,
    libc::SYS_accept4,
    libc::SYS_ptrace,
    libc::SYS_process_vm_readv,
    libc::SYS_process_vm_writev,
    libc::SYS_kill,
    libc::SYS_tkill,
    libc::SYS_pidfd_open,
    libc::SYS_pidfd_getfd,
    libc::SYS_mount,
    libc::SYS_umount2,
    libc::SYS_pivot_root,
    libc::SYS_chroot,
    libc::SYS_unshare,
    libc::SYS_setns,
    libc::SYS_open_by_handle_at,
    libc::SYS_bpf,
    libc::SYS_perf_event_open,
    libc::SYS_userfaultfd,
    libc::SYS_io_uring_setup,
    libc::SYS_keyctl,
    libc::SYS_add_key,
    libc::SYS_request_key,
    libc::SYS_init_module,
    libc::SYS_finit_module,
    libc::SYS_kexec_load,
    libc::SYS_reboot,
    libc::SYS_swapon,
    libc::SYS_setuid,
];

/// What starts another program; what is to turn into one may, and finds none but the system's.
const PROGRAMS: [libc::c_long; 2] = [libc::SYS_execve, libc::SYS_execveat];

/// The older ways to start a process.
#[cfg(target_arch = "x86_64")]
const FORKS: [libc::c_long; 2] = [libc::SYS_fork, libc::SYS_vfork];
#[cfg(not(target_arch = "x86_64"))]
const FORKS: [libc::c_long; 0] = [];

pub(crate) fn are_offered() -> bool {
    fs::exists("/proc/sys/kernel/seccomp/actions_avail").unwrap_or(false) && target().is_some()
}

fn target() -> Option<seccompiler::TargetArch> {
    ARCH.try_into().ok()
}

pub(crate) fn confine(may_turn: bool) -> Result<()> {
    let programs = PROGRAMS.into_iter().filter(|_| !may_turn);
    let mut rules: BTreeMap<i64, Vec<SeccompRule>> =
        NEVER.into_iter().chain(FORKS).chain(programs).map(|call| (call, vec![])).collect();
    // Threads, but no processes.
    let thread = libc::CLONE_THREAD as u64;
    let process = SeccompCondition::new(0, SeccompCmpArgLen::Qword, SeccompCmpOp::MaskedEq(thread), 0)?;
    rules.insert(libc::SYS_clone, vec![SeccompRule::new(vec![process])?]);
    refuse(rules, libc::EPERM)?;
    // What it is to make stands in memory, where it cannot be looked at: as if the kernel were older, which the C library
    // answers with the call above.
    refuse(BTreeMap::from([(libc::SYS_clone3, vec![])]), libc::ENOSYS)
}

fn refuse(rules: BTreeMap<i64, Vec<SeccompRule>>, with: i32) -> Result<()> {
    let target = target().ok_or_else(|| anyhow::anyhow!("no rules are known for {ARCH}"))?;
    let program: BpfProgram =
        SeccompFilter::new(rules, SeccompAction::Allow, SeccompAction::Errno(with as u32), target)?
            .try_into()?;
    Ok(apply_filter(&program)?)
}
