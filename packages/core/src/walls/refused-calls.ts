/** The processors whose system calls are numbered here. */
export type Processor = 'x64' | 'arm64';

/**
 * A system call that a build is refused, with its number on each processor (null: it has none there) and the reason.
 * `EPERM` says no; `ENOSYS` says that there is no such call, to those that programs try before they do without.
 */
export interface RefusedCall {
  readonly name: string;
  readonly x64: number | null;
  readonly arm64: number | null;
  readonly answer: 'EPERM' | 'ENOSYS';
  readonly why: string;
}

type Row = readonly [
  name: string,
  x64: number | null,
  arm64: number | null,
  answer: RefusedCall['answer'],
  why: string,
];

const ring = 'a second way into the kernel, which sees none of the other filters';
const keys = 'key rings belong to a uid of the host, not to the sandbox';
const mounting = 'what is mounted where is decided before a build begins';
const modules = 'changes the running kernel';
const clocks = 'sets the clock of the machine';
const handles = 'opens files past the folders that they lie in';
const machine = 'is about the machine, not about a build';
const old = 'is kept for programs of decades ago and hardly looked after';

/** Numbers: Linux, arch/x86/entry/syscalls/syscall_64.tbl and include/uapi/asm-generic/unistd.h. */
const rows: readonly Row[] = [
  ['io_uring_setup', 425, 425, 'ENOSYS', ring],
  ['io_uring_enter', 426, 426, 'ENOSYS', ring],
  ['io_uring_register', 427, 427, 'ENOSYS', ring],
  ['userfaultfd', 323, 282, 'EPERM', 'holds up the kernel in the middle of a copy'],
  ['keyctl', 250, 219, 'EPERM', keys],
  ['add_key', 248, 217, 'EPERM', keys],
  ['request_key', 249, 218, 'EPERM', keys],
  ['bpf', 321, 280, 'EPERM', 'loads programs into the kernel'],
  ['perf_event_open', 298, 241, 'EPERM', 'measures the whole processor, others’ work included'],
  ['memfd_secret', 447, 447, 'ENOSYS', 'memory that no limit can be counted by'],
  ['fanotify_init', 300, 262, 'EPERM', 'watches whole file systems'],
  ['mount', 165, 40, 'EPERM', mounting],
  ['umount2', 166, 39, 'EPERM', mounting],
  ['pivot_root', 155, 41, 'EPERM', mounting],
  ['open_tree', 428, 428, 'ENOSYS', mounting],
  ['move_mount', 429, 429, 'ENOSYS', mounting],
  ['fsopen', 430, 430, 'ENOSYS', mounting],
  ['fsconfig', 431, 431, 'ENOSYS', mounting],
  ['fsmount', 432, 432, 'ENOSYS', mounting],
  ['fspick', 433, 433, 'ENOSYS', mounting],
  ['mount_setattr', 442, 442, 'ENOSYS', mounting],
  ['setns', 308, 268, 'EPERM', 'enters namespaces that others made'],
  [
    'clone3',
    435,
    435,
    'ENOSYS',
    'its flags cannot be read by a filter; clone is what takes its place',
  ],
  ['open_by_handle_at', 304, 265, 'EPERM', handles],
  ['name_to_handle_at', 303, 264, 'EPERM', handles],
  ['init_module', 175, 105, 'EPERM', modules],
  ['finit_module', 313, 273, 'EPERM', modules],
  ['delete_module', 176, 106, 'EPERM', modules],
  ['kexec_load', 246, 104, 'EPERM', modules],
  ['kexec_file_load', 320, 294, 'EPERM', modules],
  ['reboot', 169, 142, 'EPERM', machine],
  ['swapon', 167, 224, 'EPERM', machine],
  ['swapoff', 168, 225, 'EPERM', machine],
  ['acct', 163, 89, 'EPERM', machine],
  ['quotactl', 179, 60, 'EPERM', machine],
  ['quotactl_fd', 443, 443, 'ENOSYS', machine],
  [
    'syslog',
    103,
    116,
    'EPERM',
    'reads what the kernel says, addresses and other programs included',
  ],
  ['sethostname', 170, 161, 'EPERM', machine],
  ['setdomainname', 171, 162, 'EPERM', machine],
  ['vhangup', 153, 58, 'EPERM', machine],
  ['settimeofday', 164, 170, 'EPERM', clocks],
  ['clock_settime', 227, 112, 'EPERM', clocks],
  ['clock_adjtime', 305, 266, 'EPERM', clocks],
  ['lookup_dcookie', 212, 18, 'ENOSYS', old],
  ['nfsservctl', 180, 42, 'ENOSYS', old],
  ['uselib', 134, null, 'ENOSYS', old],
  ['ustat', 136, null, 'ENOSYS', old],
  ['sysfs', 139, null, 'ENOSYS', old],
  ['_sysctl', 156, null, 'ENOSYS', old],
  ['modify_ldt', 154, null, 'EPERM', old],
  ['iopl', 172, null, 'EPERM', 'speaks to devices past the kernel'],
  ['ioperm', 173, null, 'EPERM', 'speaks to devices past the kernel'],
];

/** Every call that is refused whatever its arguments are. */
export const refusedCalls: readonly RefusedCall[] = rows.map(([name, x64, arm64, answer, why]) => ({
  name,
  x64,
  arm64,
  answer,
  why,
}));

/** A call that is refused with some arguments only. `argument` counts from 0; what is compared are its lower 32 bits. */
export interface RefusedArgument {
  readonly name: string;
  readonly x64: number;
  readonly arm64: number;
  readonly argument: number;
  /** `any-of` refuses when a bit of the mask is set, `is` one value, `not-in` all others. */
  readonly rule:
    | { readonly kind: 'any-of'; readonly mask: number }
    | { readonly kind: 'is'; readonly values: readonly number[] }
    | { readonly kind: 'not-in'; readonly values: readonly number[] };
  readonly why: string;
}

/** CLONE_NEWNS, NEWCGROUP, NEWUTS, NEWIPC, NEWUSER, NEWPID and NEWNET. Source: linux/sched.h. */
const newNamespaces = 0x7e02_0000;
const newTime = 0x80;
/** AF_UNIX, AF_INET, AF_INET6 and AF_NETLINK. Source: linux/socket.h. */
const families = [1, 2, 10, 16];

/** Every call that is refused by an argument, with EPERM. */
export const refusedArguments: readonly RefusedArgument[] = [
  {
    name: 'clone',
    x64: 56,
    arm64: 220,
    argument: 0,
    rule: { kind: 'any-of', mask: newNamespaces },
    why: 'a namespace of its own gives rights that the sandbox took',
  },
  {
    name: 'unshare',
    x64: 272,
    arm64: 97,
    argument: 0,
    rule: { kind: 'any-of', mask: newNamespaces + newTime },
    why: 'a namespace of its own gives rights that the sandbox took',
  },
  {
    name: 'socket',
    x64: 41,
    arm64: 198,
    argument: 0,
    rule: { kind: 'not-in', values: families },
    why: 'only the internet, its own machine and what lists interfaces: AF_VSOCK leads to the host past every network, the old families are hardly looked after',
  },
  {
    name: 'socketpair',
    x64: 53,
    arm64: 199,
    argument: 0,
    rule: { kind: 'not-in', values: [1] },
    why: 'as above',
  },
  {
    name: 'ioctl',
    x64: 16,
    arm64: 29,
    argument: 1,
    // TIOCSTI and TIOCLINUX. Source: asm-generic/ioctls.h.
    rule: { kind: 'is', values: [0x5412, 0x541c] },
    why: 'types on a terminal as if a person did',
  },
];
