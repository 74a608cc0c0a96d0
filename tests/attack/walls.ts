import { recipeOf, writesPage } from '../support/working-copy.ts';
import { type Attack, type Attempt, judge } from './attempt.ts';

type Probe = readonly [name: string, shell: string, expected: RegExp];

/** What a build tries from inside. Each says one line; `-` stands for nothing said. */
function probes(state: string, databasePort: string, apiPort: string): readonly Probe[] {
  const reads = [
    '/root',
    '/home/someone',
    '/etc/shadow',
    '/etc/ssh',
    '/var/lib',
    '/srv',
    '/mnt',
    '/run',
    '/sys',
    '/boot',
    '/opt/vaquero',
    state,
    `${state}/store`,
    `${state}/repositories`,
    `${state}/installation-key`,
    '/proc/1/root/etc/shadow',
    '/proc/1/environ.host',
    '/proc/self/root/root',
    '/proc/kcore',
    '/dev/mem',
    '/dev/kmsg',
    '/dev/fuse',
    '/dev/sda',
    '/dev/vda',
    '/dev/loop0',
    '/dev/net/tun',
    '/var/run/docker.sock',
  ];
  const writes = [
    '/planted',
    '/usr/planted',
    '/usr/bin/sh',
    '/etc/passwd',
    '/etc/ld.so.preload',
    '/dev/planted',
    '/proc/sys/kernel/hostname',
    '/proc/sys/kernel/core_pattern',
    '/proc/sysrq-trigger',
    '/proc/self/oom_score_adj.host',
    '/sys/kernel/planted',
    '/lib/planted',
    '/bin/planted',
  ];
  const calls: readonly (readonly [string, string, number])[] = [
    ['io_uring_setup', '425, 1, 0', 38],
    ['userfaultfd', '323, 0', 1],
    ['keyctl', '250, 0, -3, 1', 1],
    ['add_key', '248, 0, 0, 0, 0, 0', 1],
    ['bpf', '321, 0, 0, 0', 1],
    ['perf_event_open', '298, 0, 0, 0, 0, 0', 1],
    ['setns', '308, 0, 0', 1],
    ['open_by_handle_at', '304, 0, 0, 0', 1],
    ['name_to_handle_at', '303, 0, 0, 0, 0, 0', 1],
    ['init_module', '175, 0, 0, 0', 1],
    ['kexec_load', '246, 0, 0, 0, 0', 1],
    ['reboot', '169, 0, 0, 0, 0', 1],
    ['mount', '165, 0, 0, 0, 0, 0', 1],
    ['umount2', '166, 0, 0', 1],
    ['pivot_root', '155, 0, 0', 1],
    ['fsopen', '430, 0, 0', 38],
    ['clone3', '435, 0, 0', 38],
    ['unshare of users', '272, 0x10000000', 1],
    ['unshare of mounts', '272, 0x20000', 1],
    ['unshare of time', '272, 0x80', 1],
    ['clone of a network', '56, 0x40000011, 0, 0, 0, 0', 1],
    ['a socket of the host machine', '41, 40, 1, 0', 1],
    ['a raw packet socket', '41, 17, 3, 0', 1],
    ['a socket of kernel ciphers', '41, 38, 5, 0', 1],
    ['a socket of TIPC', '41, 30, 1, 0', 1],
    ['a socket of Bluetooth', '41, 31, 3, 0', 1],
    ['typing on a terminal', '16, 0, 0x5412, 0', 1],
    ['settimeofday', '164, 0, 0', 1],
    ['sethostname', '170, 0, 0', 1],
    ['swapon', '167, 0, 0', 1],
    ['syslog', '103, 10, 0, 0', 1],
    ['modify_ldt', '154, 0, 0, 0', 1],
    ['iopl', '172, 3', 1],
    ['fanotify_init', '300, 0, 0', 1],
  ];
  return [
    ...reads.map((path): Probe => [`reading ${path}`, `ls -d ${path} 2>/dev/null`, /^-$/]),
    ...writes.map(
      (path): Probe => [`writing ${path}`, `(echo x > ${path}) 2>/dev/null && echo wrote`, /^-$/],
    ),
    ...calls.map(
      ([name, args, error]): Probe => [
        `the call ${name}`,
        `perl -e '$!=0; my $r=syscall(${args}); print $r<0 ? $!+0 : "done"'`,
        new RegExp(`^${error}$`),
      ],
    ),
    ['a call of 32 bits', `perl -e 'syscall(0x40000000 + 39)'; echo ended $?`, /ended 159$/],
    [
      'becoming root by a mode',
      'cp /bin/bash ./b && chmod 4755 ./b && ./b -p -c "id -u"',
      /^1000$/,
    ],
    ['a device of its own', 'mknod ./d b 8 0 2>/dev/null && echo made', /^-$/],
    ['capabilities', 'grep CapEff /proc/self/status | tr -d "\\t"', /^CapEff:0+$/],
    [
      'rights that come by programs',
      'grep NoNewPrivs /proc/self/status | tr -d "\\t"',
      /^NoNewPrivs:1$/,
    ],
    ['other processes', 'ls /proc | grep -c "^[0-9]"', /^\d{1,2}$/],
    [
      'words of other processes',
      `tr '\\0' ' ' < /proc/1/cmdline; grep -l ${state} /proc/[0-9]*/cmdline 2>/dev/null`,
      /^(?!.*vaquero-test)/,
    ],
    [
      'the api over the loopback',
      `(exec 3<>/dev/tcp/127.0.0.1/${apiPort}) 2>/dev/null && echo reached`,
      /^-$/,
    ],
    [
      'the database over the loopback',
      `(exec 3<>/dev/tcp/127.0.0.1/${databasePort}) 2>/dev/null && echo reached`,
      /^-$/,
    ],
    [
      'the world without a network',
      '(exec 3<>/dev/tcp/9.9.9.9/53) 2>/dev/null && echo reached',
      /^-$/,
    ],
    [
      'interfaces beside the loopback',
      "node -p 'Object.keys(os.networkInterfaces()).join()'",
      /^lo$|^-$/,
    ],
    [
      'descriptors that were left open',
      'ls /proc/self/fd | grep -vx "[0-3]" | tr "\\n" " "',
      /^-$/,
    ],
    ['names of the host in mounts', "grep -c 'attempt' /proc/self/mountinfo", /^0$/],
    [
      'more memory than shared memory has',
      'dd if=/dev/zero of=/dev/shm/x bs=1M count=100 2>/dev/null; du -m /dev/shm/x | cut -f1; rm -f /dev/shm/x',
      /^6[0-4]$/,
    ],
    ['the names of the machine', 'hostname', /^build$/],
    [
      'values of the service',
      'env | grep -c -i -E "vaquero_(database|runner|edge)|token|secret"',
      /^0$/,
    ],
  ];
}

/** From inside a build: files, devices, calls, processes and networks of the machine. */
export const fromInside: Attack = async ({ service, push }) => {
  const port = new URL(
    (service.environment.VAQUERO_DATABASE_URL ?? '').replace('mariadb:', 'http:'),
  ).port;
  const all = probes(service.state, port, String(new URL(service.address).port));
  const shell = all
    .map(
      ([, text], number) =>
        `said=$({ ${text}\n} 2>/dev/null | tr '\\n' ' '); echo "probe ${number}: \${said:--}"`,
    )
    .join('\n');
  const { log } = await push({
    'probes.sh': shell,
    'vaquero.yaml': recipeOf(`bash ./probes.sh\n${writesPage('x')}`),
  });
  return all.map(([name, , expected], number): Attempt => {
    const said = new RegExp(`^probe ${number}: (.*)$`, 'm').exec(log)?.[1]?.trim();
    return said === undefined
      ? { what: name, expected: 'a word', held: false, saw: log.slice(-300) }
      : judge(name, expected, said);
  });
};
