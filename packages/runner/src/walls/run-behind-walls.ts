import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import type { Readable } from 'node:stream';
import type { StepEnd } from '@vaquero/core';
import { type Entered, killGroup, pipeOf, say } from './anteroom.ts';
import type { ControlGroup } from './control-group.ts';
import { descriptors, filterOfCalls, listed } from './handed-down.ts';
import { openWayOut } from './network.ts';
import { killAll, type Slot } from './slot.ts';
import {
  type Behind,
  innerArguments,
  madeFiles,
  mountedDescriptors,
  outerCommand,
  valuesText,
} from './wall-arguments.ts';
import { type Overrun, watchUse } from './watch-use.ts';

/** How a command behind the walls is fed and heard. */
export interface Ears {
  readonly npmrc: string;
  /** What the command reads; nothing by default. */
  readonly input?: Readable;
  /** Takes output as it comes; returning false says that the log is full. */
  readonly hear: (bytes: Buffer) => boolean;
  readonly signal: AbortSignal;
}

/** How a command ended. `ok` is exit code 0. */
export type Ended =
  | { readonly ok: true; readonly sawProcessLimit: boolean }
  | { readonly ok: false; readonly end: StepEnd; readonly sawProcessLimit: boolean };

/**
 * Runs one command behind the walls and returns when its whole process namespace has ended: nothing it
 * started outlives it. Never throws for what the command does; walls that cannot be raised are an end too.
 */
export async function runBehindWalls(behind: Behind, ears: Ears): Promise<Ended> {
  const { directory } = behind.slot;
  running.set(directory, (running.get(directory) ?? 0) + 1);
  try {
    const entered = await behind.anterooms
      .enter(behind.slot, behind.network)
      .catch((error: unknown) => (error instanceof Error ? error : new Error(String(error))));
    if (entered instanceof Error)
      return { ok: false, end: { kind: 'walls', why: entered.message }, sawProcessLimit: false };
    // What was used is taken away while the build goes on: the kernel takes as long for that as for the making.
    return await runOne(behind, ears, entered).finally(() => void entered.close());
  } finally {
    behind.sight.release();
    running.set(directory, (running.get(directory) ?? 1) - 1);
  }
}

/** Kills what a slot's uid may still run, unless other commands of the slot run. */
async function sweepIfLast(slot: Slot, group: ControlGroup | null): Promise<void> {
  // Looking through all processes of the machine takes longer than many a step.
  if ((await group?.isEmpty()) === true) return;
  if (running.get(slot.directory) === 1) await killAll(slot);
}

/** How many commands run in each slot. */
const running = new Map<string, number>();

async function runOne(behind: Behind, ears: Ears, entered: Entered): Promise<Ended> {
  const { slot, workplace, limits } = behind;
  const { child, group, way } = entered;
  let stopped: StepEnd | null = null;
  const stop = (end: StepEnd): void => {
    stopped ??= end;
    killGroup(child);
  };
  const closing = closed(child);
  const onAbort = (): void => stop({ kind: 'signal', signal: 'SIGTERM' });
  ears.signal.addEventListener('abort', onAbort, { once: true });
  // It may have been ended while its walls were being made ready: nobody says so twice.
  if (ears.signal.aborted) onAbort();
  const timer = setTimeout(
    () => stop({ kind: 'time-limit', limitMs: limits.stepMs }),
    limits.stepMs,
  );
  const watch = watchUse(slot, workplace, limits, group, (overrun: Overrun) => stop(overrun));
  let wayOut: { readonly close: () => void } | null = null;
  try {
    for (const stream of [child.stdout, child.stderr]) {
      stream?.on('data', (bytes: Buffer) => {
        if (!ears.hear(bytes)) stop({ kind: 'log-limit', limitBytes: limits.logBytes });
      });
    }
    hand(entered, behind, ears);
    const pid = await blockedPid(child);
    behind.sight.release();
    const entry =
      pid === null ? notLetIn : await letIn(child, pid, behind.network === 'out' && way === null);
    wayOut = entry.wayOut;
    if (entry.why !== null) stop({ kind: 'walls', why: entry.why });
    const { code, signal, said } = await closing;
    // Others of the same build may run beside it under the same uid; the last one sweeps.
    await sweepIfLast(slot, group);
    const sawProcessLimit = (await group?.ranOutOfProcesses()) ?? watch.sawProcessLimit();
    if (stopped !== null) return { ok: false, end: stopped, sawProcessLimit };
    if (entry.isGone) {
      const why = said || `bubblewrap ended with ${code ?? signal}`;
      return { ok: false, end: { kind: 'walls', why }, sawProcessLimit };
    }
    // A build in which the kernel killed something has no result, even if its shell did not mind.
    if ((await group?.ranOutOfMemory()) === true) {
      return {
        ok: false,
        end: { kind: 'memory-limit', limitBytes: limits.memoryBytes },
        sawProcessLimit,
      };
    }
    return code === 0
      ? { ok: true, sawProcessLimit }
      : { ok: false, end: endOf(code, signal), sawProcessLimit };
  } finally {
    clearTimeout(timer);
    watch.stop();
    ears.signal.removeEventListener('abort', onAbort);
    wayOut?.close();
  }
}

/** How a command that waited behind the walls was let begin. */
interface Entry {
  readonly wayOut: { readonly close: () => void } | null;
  /** bubblewrap ended while it raised the walls: its own words say why. */
  readonly isGone: boolean;
  /** What kept it from beginning, beside that. */
  readonly why: string | null;
}

const notLetIn: Entry = { wayOut: null, isGone: true, why: null };

/** Opens a way out for the blocked command if it must make its own, and lets it begin. */
async function letIn(child: ChildProcess, pid: number, makesWayOut: boolean): Promise<Entry> {
  try {
    const wayOut = makesWayOut ? await openWayOut(pid) : null;
    say(child, descriptors.block, 'x');
    return { wayOut, isGone: false, why: null };
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'ESRCH') return notLetIn;
    const why = error instanceof Error ? error.message : String(error);
    return { wayOut: null, isGone: false, why };
  }
}

/** bubblewrap gives a signal of the command on as 128 and its number, as shells do. */
function endOf(code: number | null, signal: NodeJS.Signals | null): StepEnd {
  if (signal !== null) return { kind: 'signal', signal };
  const names: Readonly<Record<number, string>> = {
    129: 'SIGHUP',
    132: 'SIGILL',
    134: 'SIGABRT',
    135: 'SIGBUS',
    136: 'SIGFPE',
    137: 'SIGKILL',
    139: 'SIGSEGV',
    141: 'SIGPIPE',
    143: 'SIGTERM',
    153: 'SIGXFSZ',
  };
  const name = names[code ?? 0];
  return name === undefined
    ? { kind: 'exit', exitCode: code ?? 1 }
    : { kind: 'signal', signal: name };
}

function hand({ child, way, become }: Entered, behind: Behind, ears: Ears): void {
  const namespace = way?.namespace ?? null;
  if (ears.input === undefined) child.stdin?.end();
  else if (child.stdin !== null) {
    ears.input.pipe(child.stdin);
    child.stdin.on('error', () => undefined); // A command that stops reading early is judged by how it ends.
  }
  const args = innerArguments(behind, namespace);
  const values = valuesText(behind.environment);
  say(child, descriptors.args, listed(args));
  say(child, descriptors.values, values);
  say(child, descriptors.calls, filterOfCalls());
  say(child, descriptors.resolv, madeFiles.resolv);
  say(child, descriptors.hosts, madeFiles.hosts);
  say(child, descriptors.passwd, madeFiles.passwd);
  say(child, descriptors.npmrc, ears.npmrc);
  become(outerCommand(behind, namespace), mountedDescriptors(behind.sight));
}

/** The pid of the process that waits behind the walls; null when bubblewrap ended before there was one. */
function blockedPid(child: ChildProcess): Promise<number | null> {
  return new Promise((resolve) => {
    let text = '';
    const info = pipeOf(child, descriptors.info);
    info?.on('data', (bytes: Buffer) => {
      text += bytes.toString();
      const pid = /"child-pid"\s*:\s*(\d+)/.exec(text)?.[1];
      if (pid !== undefined && text.includes('}')) resolve(Number(pid));
    });
    info?.on('error', () => resolve(null)); // Closed before anything was said: the same as ending.
    child.once('exit', () => resolve(null));
    child.once('error', () => resolve(null));
  });
}

async function closed(
  child: ChildProcess,
): Promise<{ code: number | null; signal: NodeJS.Signals | null; said: string }> {
  let said = '';
  child.stderr?.on('data', (bytes: Buffer) => {
    said = (said + bytes.toString()).slice(-1000);
  });
  try {
    const [code, signal] = (await once(child, 'close')) as [number | null, NodeJS.Signals | null];
    return { code, signal, said: said.trim() };
  } catch (error) {
    return {
      code: null,
      signal: null,
      said: error instanceof Error ? error.message : String(error),
    };
  }
}
