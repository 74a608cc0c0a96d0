import { execa } from 'execa';

/**
 * The machine's npm settings that a build may have: where packages come from. Anything that could be a
 * secret, a token or a password, stays outside, as does a proxy that carries one.
 * Read once for each process. Returns the text of an npmrc.
 */
export function npmSettings(): Promise<string> {
  known ??= askNpm();
  return known;
}

let known: Promise<string> | null = null;

async function askNpm(): Promise<string> {
  const end = await execa('npm', ['config', 'list', '--json'], { reject: false, stdin: 'ignore' });
  const settings = end.exitCode === 0 ? readSettings(end.stdout) : {};
  const rows = wanted.map((name) => {
    const value = settings[name];
    const isGood = typeof value === 'string' && value !== '' && !/\n/.test(value);
    return isGood && !carriesPassword(value) ? `${name}=${value}\n` : '';
  });
  return `${rows.join('')}fund=false\naudit=false\nupdate-notifier=false\nprogress=false\n`;
}

const wanted = ['registry', 'proxy', 'https-proxy', 'noproxy', 'cafile'] as const;

function readSettings(text: string): Readonly<Record<string, unknown>> {
  const value: unknown = JSON.parse(text);
  return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {};
}

function carriesPassword(value: string): boolean {
  return /\/\/[^/]*@/.test(value);
}
