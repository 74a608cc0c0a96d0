import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import type { Socket } from 'node:net';
import { join } from 'node:path';
import { execa } from 'execa';
import { z } from 'zod';

/** The host uids that builds run under. */
export interface UidRange {
  readonly first: number;
  readonly last: number;
}

/** Whose builds run under a uid of their own: those of one project and circle, in one slot. */
export interface UidKey {
  readonly project: string;
  readonly circle: string;
  readonly slot: number;
}

/** Hands out uids. */
export interface Uids {
  /** The uid of a key, the same each time, held until it is released. Throws when none is left. */
  readonly hold: (key: UidKey) => Promise<{ readonly uid: number; readonly release: () => void }>;
  /** The uids that this installation has given to builds. */
  readonly given: () => readonly number[];
  readonly stop: () => void;
}

const keptSchema = z.array(z.object({ key: z.string().max(300), uid: z.number().int() }));
/** Where the ranges that are in use on this machine are locked, by whichever installation. */
const lockFolder = '/run/vaquero-uids';

/**
 * Opens the uids of a range, which nobody else on this machine may use meanwhile. One for each project, circle and
 * slot: no build owns what another project's, or an outsider's, has left, nor sees its processes. They are
 * remembered in a file, since caches outlive the runner. The first `reserved` are given to no build.
 * Throws when another installation uses some of the range.
 */
export async function openUids(
  range: UidRange,
  reserved: number,
  stateDirectory: string,
): Promise<Uids> {
  const lock = await lockRange(range);
  const file = join(stateDirectory, 'slots', 'uids.json');
  const uids = await readKept(file, range, reserved);
  const held = new Map<number, number>();
  let turn: Promise<unknown> = Promise.resolve();

  const keep = async (): Promise<void> => {
    const rows = [...uids].map(([key, uid]) => ({ key, uid }));
    await mkdir(join(stateDirectory, 'slots'), { recursive: true, mode: 0o711 });
    await writeFile(`${file}.new`, JSON.stringify(rows), { mode: 0o600 });
    await rename(`${file}.new`, file);
  };
  const findFree = async (): Promise<number> => {
    const taken = new Set(uids.values());
    for (let uid = range.first + reserved; uid <= range.last; uid += 1)
      if (!taken.has(uid)) return uid;
    // The one longest unused of which nothing is left: what a build owns is never another one's.
    for (const [key, uid] of uids) {
      if (held.has(uid) || (await ownsAnything(stateDirectory, uid))) continue;
      uids.delete(key);
      return uid;
    }
    throw new Error(
      `all uids of ${range.first}-${range.last} are given to other projects, pull requests and slots whose files are kept: widen VAQUERO_RUNNER_UIDS`,
    );
  };
  const hold = async ({ project, circle, slot }: UidKey) => {
    const key = `${slot} ${project} ${circle}`;
    const known = uids.get(key);
    const uid = known ?? (await findFree());
    // Behind all others: the first is the one longest unused.
    uids.delete(key);
    uids.set(key, uid);
    if (known === undefined) await keep();
    held.set(uid, (held.get(uid) ?? 0) + 1);
    return {
      uid,
      release: () => {
        const left = (held.get(uid) ?? 1) - 1;
        if (left > 0) held.set(uid, left);
        else held.delete(uid);
      },
    };
  };
  return {
    hold: (key) => {
      const next = turn.then(() => hold(key));
      turn = next.catch(() => undefined); // Its caller hears of the failure; the next one must not wait on it.
      return next;
    },
    given: () => [...uids.values()],
    stop: () => void lock.stdin?.end(),
  };
}

async function readKept(
  file: string,
  range: UidRange,
  reserved: number,
): Promise<Map<string, number>> {
  const text = await readFile(file, 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return '[]';
    throw error;
  });
  const rows = keptSchema.parse(JSON.parse(text));
  const isOurs = ({ uid }: { uid: number }): boolean =>
    uid >= range.first + reserved && uid <= range.last;
  return new Map(rows.filter(isOurs).map(({ key, uid }) => [key, uid]));
}

/** Whether a file of a uid lies where builds leave any. find(1) follows no link. */
async function ownsAnything(stateDirectory: string, uid: number): Promise<boolean> {
  const folders = ['slots', 'caches'].map((name) => join(stateDirectory, name));
  const args = [...folders, '-uid', String(uid), '-print', '-quit'];
  const found = await execa('find', args, { reject: false, env: { LC_ALL: 'C' } });
  return found.stdout !== '';
}

/**
 * Locks a range for as long as this process lives: a process that waits for its input to end holds the lock, and no
 * file says that something is in use which is not. Ranges that overlap are told from each other by their names.
 */
const lockScript = `
mkdir -p -m 700 "$1" && cd "$1" || exit 70
exec 9>mutex; flock 9
for other in *-*; do
  [ -e "$other" ] || continue
  first=\${other%-*} last=\${other#*-}
  exec 8<>"$other"
  # A runner that was killed leaves its lock a moment later than itself.
  if ((first <= $3 && $2 <= last)); then flock -w 3 8 || { echo "$other"; exit 71; }; fi
  flock -n 8 && rm -f "$other"
  exec 8>&-
done
exec 8<>"$2-$3"; flock -n 8 || exit 70
exec 9>&-
echo locked
exec cat >/dev/null`;

async function lockRange({ first, last }: UidRange): Promise<ChildProcess> {
  const child = spawn(
    '/bin/bash',
    ['--norc', '-c', lockScript, 'lock', lockFolder, String(first), String(last)],
    {
      stdio: ['pipe', 'pipe', 'pipe'],
      env: { PATH: '/usr/sbin:/usr/bin:/sbin:/bin', LC_ALL: 'C' },
    },
  );
  let said = '';
  child.stderr.on('data', (bytes: Buffer) => {
    said += bytes.toString();
  });
  child.stdin.on('error', () => undefined); // It has ended: whoever waits for its word hears of it.
  const ended = once(child, 'close').then(([code]) => Number(code));
  const [word] = await Promise.race([
    once(child.stdout, 'data').then((chunks) => [String(chunks[0]).trim()]),
    ended.then((code) => [`ended with ${code}`]),
  ]);
  if (word === 'locked') {
    // It keeps nobody alive: its end comes with this process.
    child.unref();
    for (const stream of [child.stdin, child.stdout, child.stderr]) (stream as Socket).unref();
    return child;
  }
  if ((await ended) === 71)
    throw new Error(
      `The uids ${first}-${last} are in use: another installation on this machine runs its builds under ${word}. Next: give this one others, as VAQUERO_RUNNER_UIDS=${last + 1}-${last + 1 + (last - first)}`,
    );
  throw new Error(
    `the uids of builds could not be locked in ${lockFolder}: ${said.trim() || word}`,
  );
}
