import { type ChildProcess, spawn } from 'node:child_process';
import { execa } from 'execa';
import { stepBack } from '../base/precedence.ts';
import { OutsideFailure } from '../base/refused.ts';

/** Ways Git may reach out; ssh and helpers that run commands are not among them. */
const protocols = 'http:https:file';

/** Certificates that the operator's environment names; the rest of it never reaches Git. */
const passed = [
  'GIT_SSL_CAINFO',
  'SSL_CERT_FILE',
  'SSL_CERT_DIR',
  'https_proxy',
  'http_proxy',
  'no_proxy',
  'HTTPS_PROXY',
  'HTTP_PROXY',
  'NO_PROXY',
];

/** Git's environment: the machine's own configuration, hooks, prompts and helpers are left out. */
export function gitEnvironment(): Record<string, string> {
  const kept = passed.flatMap((name) => {
    const value = process.env[name];
    return value === undefined ? [] : [[name, value] as const];
  });
  return {
    ...Object.fromEntries(kept),
    PATH: '/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin',
    HOME: '/nonexistent',
    LC_ALL: 'C.UTF-8',
    GIT_CONFIG_NOSYSTEM: '1',
    GIT_CONFIG_GLOBAL: '/dev/null',
    GIT_ALLOW_PROTOCOL: protocols,
    GIT_TERMINAL_PROMPT: '0',
    GIT_ASKPASS: '/bin/false',
    // An object is what its name says, whatever a ref or a file would have stand for it.
    GIT_NO_REPLACE_OBJECTS: '1',
    GIT_GRAFT_FILE: '/nonexistent/grafts',
    GIT_CONFIG_COUNT: String(settingCount),
    GIT_CONFIG_KEY_0: 'safe.directory',
    GIT_CONFIG_VALUE_0: '*',
    GIT_CONFIG_KEY_1: 'core.hooksPath',
    GIT_CONFIG_VALUE_1: '/dev/null',
    GIT_CONFIG_KEY_2: 'transfer.fsckObjects',
    GIT_CONFIG_VALUE_2: 'true',
    GIT_CONFIG_KEY_3: 'gc.auto',
    GIT_CONFIG_VALUE_3: '0',
    GIT_CONFIG_KEY_4: 'receive.advertisePushOptions',
    GIT_CONFIG_VALUE_4: 'true',
    // Everybody may fetch the heads of pull requests; only the service sets them.
    GIT_CONFIG_KEY_5: 'receive.hideRefs',
    GIT_CONFIG_VALUE_5: 'refs/proposed',
    // A push that brings half of a history would make what is built depend on who fetched before.
    GIT_CONFIG_KEY_6: 'receive.shallowUpdate',
    GIT_CONFIG_VALUE_6: 'false',
    // Beyond it a blob is streamed by Git and not held in memory whole.
    GIT_CONFIG_KEY_7: 'core.bigFileThreshold',
    GIT_CONFIG_VALUE_7: '32m',
    // Replacements that were pushed before they were refused.
    GIT_CONFIG_KEY_8: 'transfer.hideRefs',
    GIT_CONFIG_VALUE_8: 'refs/replace',
  };
}

/** The settings above; one more is counted behind them. */
const settingCount = 9;

/** Variables that give a Git one setting beside those that every one has. */
export function oneMoreSetting(key: string, value: string): Readonly<Record<string, string>> {
  return {
    GIT_CONFIG_COUNT: String(settingCount + 1),
    [`GIT_CONFIG_KEY_${settingCount}`]: key,
    [`GIT_CONFIG_VALUE_${settingCount}`]: value,
  };
}

/** How a Git command ended. */
export interface GitEnd {
  readonly ok: boolean;
  readonly stdout: string;
  readonly stderr: string;
}

/** Runs git and returns how it ended; never throws for a failure of Git's own. */
export async function tryGit(
  args: readonly string[],
  options: {
    readonly cwd?: string;
    readonly input?: string;
    readonly timeoutMs?: number;
    /** Ends it when it is no longer wanted. */
    readonly signal?: AbortSignal;
    /** No file that it writes may grow beyond this; it is ended by a signal that says so. */
    readonly mostFileBytes?: number;
    /** Nor may it hold more memory: what a host sends is held by its helpers before anybody judges it. */
    readonly mostMemoryBytes?: number;
    /** Variables beside those that every Git of ours has. */
    readonly extra?: Readonly<Record<string, string>>;
  } = {},
): Promise<GitEnd> {
  const { mostFileBytes: file, mostMemoryBytes: memory } = options;
  const limits = [
    ...(file === undefined ? [] : [`--fsize=${file}`]),
    ...(memory === undefined ? [] : [`--data=${memory}`]),
  ];
  const [program = 'git', ...before] =
    limits.length === 0 ? ['git'] : ['prlimit', ...limits, '--core=0', 'git'];
  const running = execa(program, [...before, ...args], {
    ...(options.cwd === undefined ? {} : { cwd: options.cwd }),
    ...(options.input === undefined ? { stdin: 'ignore' as const } : { input: options.input }),
    env: { ...gitEnvironment(), ...options.extra },
    extendEnv: false,
    reject: false,
    stripFinalNewline: false,
    maxBuffer: 64 << 20,
    // A group of its own: helpers of Git that talk to a host outlive a Git that was ended alone, and hold its output open.
    detached: true,
  });
  let isLate = false;
  const kill = (): void => killGroup(running.pid);
  const timer = setTimeout(() => {
    isLate = true;
    kill();
  }, options.timeoutMs ?? 60_000);
  if (options.signal?.aborted === true) kill();
  options.signal?.addEventListener('abort', kill, { once: true });
  try {
    const end = await running;
    // One that said too much was ended, and its helpers were not.
    if (end.isMaxBuffer) kill();
    return {
      ok: end.exitCode === 0,
      stdout: end.stdout,
      stderr: isLate ? 'timed out' : end.stderr,
    };
  } finally {
    clearTimeout(timer);
    options.signal?.removeEventListener('abort', kill);
  }
}

/** Ends a process and all that it started. */
function killGroup(pid: number | undefined): void {
  if (pid === undefined) return;
  try {
    process.kill(-pid, 'SIGKILL');
  } catch (error) {
    // It has ended by itself.
    if (!(error instanceof Error && 'code' in error && error.code === 'ESRCH')) throw error;
  }
}

/** What a Git that talks to a host may hold: a list of refs, or what puts a pack together. */
export const mostMemoryBytes = { list: 512 << 20, fetch: 2 ** 31 } as const;

/** Runs git and returns what it wrote. Throws OutsideFailure with Git's own words when it fails. */
export async function git(
  args: readonly string[],
  options: { readonly cwd?: string; readonly input?: string; readonly timeoutMs?: number } = {},
): Promise<string> {
  const end = await tryGit(args, options);
  if (!end.ok) throw new OutsideFailure('git', `${args[0]}: ${end.stderr.trim().slice(0, 500)}`);
  return end.stdout;
}

/** Starts a git process whose streams the caller joins to others: one that moves whole trees or packs, and takes its time. */
export function spawnGit(
  args: readonly string[],
  cwd: string,
  extra: Readonly<Record<string, string>> = {},
): ChildProcess {
  const child = spawn('git', args, {
    cwd,
    env: { ...gitEnvironment(), ...extra },
    stdio: ['pipe', 'pipe', 'pipe'],
  });
  stepBack(child.pid);
  return child;
}
