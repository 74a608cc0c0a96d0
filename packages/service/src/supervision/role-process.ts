import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { setTimeout as pause } from 'node:timers/promises';
import type { Logger } from 'pino';
import { takePlace } from '../base/precedence.ts';

/** A role that runs as a process of its own and is started again when it dies. */
export interface RoleProcess {
  readonly name: string;
  readonly pid: () => number | undefined;
  /** It is started no more, however it ends from here on. */
  readonly letGo: () => void;
  readonly stop: () => Promise<void>;
}

/** How a role is started. */
export interface RoleOptions {
  readonly name: 'api' | 'runner' | 'edge';
  readonly command: readonly string[];
  readonly environment: Readonly<Record<string, string | undefined>>;
  /** Whether it mounts file systems, which are to be its own. */
  readonly mounts: boolean;
  readonly log: Logger;
  /** Takes the role's log, line by line as it comes. */
  readonly output: (bytes: Buffer) => void;
  /** Exit codes with which a role says that starting it again would not help. */
  readonly gaveUp: (code: number) => void;
}

/** The exit code of a role whose configuration or machine keeps it from ever running. */
export const cannotRun = 78;
const stopWithinMs = 8_000;
/** A role that ended well was told to; so long it is waited whether all are. */
const afterAllMs = 250;
/** A role whose supervisor was killed is told to stop by the kernel, so that its ports are free for the next start (prctl(2), PR_SET_PDEATHSIG). */
const endsWithUs = ['setpriv', '--pdeathsig', 'TERM'];
/** What the runner mounts is gone with it, however it ends (mount_namespaces(7)). */
const ownMounts = ['unshare', '--mount', '--propagation', 'private', '--'];
const canHaveMounts = spawnSync(ownMounts[0] ?? '', [...ownMounts.slice(1), 'true']).status === 0;

/** Starts a role and keeps it: after a death it comes back at once, then after 1, 2, 4 … 30 s while it dies young. */
export function keepRole(options: RoleOptions): RoleProcess {
  const { name, log } = options;
  let child: ChildProcess | undefined;
  let stopping = false;
  const stop = new AbortController();

  const running = (async () => {
    for (let young = 0; !stopping; ) {
      const born = performance.now();
      child = begin(options);
      const { code, signal } = await ended(child);
      // Ctrl-C reaches every process of a terminal at once: a role may hear of it before we do.
      if (code === 0)
        await pause(afterAllMs, undefined, { signal: stop.signal }).catch(() => undefined); // An abort only ends the wait.
      if (stopping) return;
      if (code === cannotRun) {
        options.gaveUp(code);
        return;
      }
      young = performance.now() - born > 10_000 ? 0 : young + 1;
      const waitMs = young <= 1 ? 0 : Math.min(30_000, 500 * 2 ** young);
      log.warn({ name, code, signal, waitMs }, 'role ended; it is started again');
      await pause(waitMs, undefined, { signal: stop.signal }).catch(() => undefined); // An abort only ends the wait.
    }
  })();

  const letGo = (): void => {
    stopping = true;
    stop.abort();
  };
  return {
    name,
    pid: () => child?.pid,
    letGo,
    stop: async () => {
      letGo();
      child?.kill('SIGTERM');
      const late = setTimeout(() => child?.kill('SIGKILL'), stopWithinMs);
      await running;
      clearTimeout(late);
    },
  };
}

function begin({ name, command, environment, mounts, output }: RoleOptions): ChildProcess {
  const [program = '', ...args] = [
    ...(mounts && canHaveMounts ? ownMounts : []),
    ...endsWithUs,
    ...command,
  ];
  const child = spawn(program, args, {
    env: { ...environment },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  takePlace(name, child.pid);
  child.stdout?.on('data', output);
  child.stderr?.on('data', output);
  return child;
}

function ended(child: ChildProcess): Promise<{ code: number | null; signal: string | null }> {
  return new Promise((resolve) => {
    child.once('error', () => resolve({ code: null, signal: 'could not be started' }));
    child.once('exit', (code, signal) => resolve({ code, signal }));
  });
}
