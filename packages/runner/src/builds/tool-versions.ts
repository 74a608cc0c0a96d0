import { readFile } from 'node:fs/promises';
import { execa } from 'execa';

/** Tools that most steps use, whether their commands say so or not: asked once, before the first build. */
const usual = ['node', 'npm', 'git', 'python3'];

/** Runs a command where steps run, and returns what it said. */
export type RunThere = (command: readonly string[]) => Promise<string>;

/** Asks each program for its version, side by side; what is not there, or says none, says nothing. */
const script = `for program in "$@"; do (
  command -v "$program" > /dev/null || exit 0
  for word in --version version -version; do
    said=$(timeout 10 "$program" $word 2>&1 < /dev/null | grep -m 1 '[0-9]\\.[0-9]') && break
  done
  [ -z "$said" ] || printf '%s\\t%s\\n' "$program" "$said"
) & done; wait`;

/** Versions of programs by their names, as steps would find them. */
export interface ToolVersions {
  /** Those of all programs that were asked about so far, and of the system. */
  readonly known: () => Readonly<Record<string, string>>;
  /** Asks about programs that nobody has asked about yet; whether there were any. */
  readonly learn: (programs: readonly string[], there: RunThere) => Promise<boolean>;
}

// Programs change with the machine, not with a build: they are asked once for each process.
const versions = new Map<string, string>();
const asked = new Set<string>();

/** Recipes name what they like; so many programs are told apart, and no more asked about than could be kept. */
const mostAsked = 2000;
const mostKnown = 200;

function room(): number {
  return asked.size >= mostAsked || versions.size >= mostKnown ? 0 : mostKnown - versions.size;
}

/** Opens the versions, with those of the usual tools. They are part of steps' keys: what another version made is not used again. */
export async function openToolVersions(there: RunThere): Promise<ToolVersions> {
  const tools: ToolVersions = {
    known: () => Object.fromEntries(versions),
    learn: async (programs, where) => {
      const fresh = programs.filter((program) => !asked.has(program)).slice(0, room());
      if (fresh.length === 0) return false;
      const said = await where(['/bin/bash', '-c', script, 'ask', ...fresh]);
      for (const program of fresh) asked.add(program);
      for (const line of said.split('\n')) {
        const [program = '', text = ''] = line.split('\t', 2);
        if (fresh.includes(program)) versions.set(program, plainVersion(text));
      }
      return true;
    },
  };
  if (!versions.has('system')) versions.set('system', await systemName());
  await tools.learn(usual, there);
  return tools;
}

/** Runs it on the machine itself, where builds run without walls. */
export async function runHere(command: readonly string[]): Promise<string> {
  const [program = '', ...args] = command;
  const env = { PATH: process.env.PATH ?? '', HOME: '/nonexistent' };
  const end = await execa(program, args, { reject: false, env, extendEnv: false, timeout: 30_000 });
  return end.stdout;
}

async function systemName(): Promise<string> {
  const release = await readFile('/etc/os-release', 'utf8').catch(() => ''); // A system that names itself nowhere.
  return /^PRETTY_NAME="?([^"\n]*)/m.exec(release)?.[1] ?? 'unknown';
}

/** The version alone: `git version 2.39.5` says its own name first, `v20.20.2` does not. */
function plainVersion(said: string): string {
  return (/\bv?\d+\.\d+\S*/.exec(said)?.[0] ?? said).replace(/[,;)]+$/, '').slice(0, 100);
}
