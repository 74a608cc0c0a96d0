import { execa } from 'execa';

/**
 * The machine's npm settings that a build may have: where packages come from. Anything that could be a
 * secret, a token or a password, stays outside, as does a proxy that carries one.
 * Read once at the runner's start. Returns the text of an npmrc.
 */
export async function npmSettings(): Promise<string> {
  const wanted = ['registry', 'proxy', 'https-proxy', 'noproxy', 'cafile'] as const;
  const rows = await Promise.all(
    wanted.map(async (name) => {
      const end = await execa('npm', ['config', 'get', name], { reject: false, stdin: 'ignore' });
      const value = end.exitCode === 0 ? end.stdout.trim() : '';
      return value === '' ||
        value === 'null' ||
        value === 'undefined' ||
        carriesPassword(value) ||
        value.includes('\n')
        ? ''
        : `${name}=${value}\n`;
    }),
  );
  return `${rows.join('')}fund=false\naudit=false\nupdate-notifier=false\nprogress=false\n`;
}

function carriesPassword(value: string): boolean {
  return /\/\/[^/]*@/.test(value);
}
