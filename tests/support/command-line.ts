import { execa } from 'execa';
import type { TestService } from './service.ts';

/** The client as it is shipped. */
export const bundle = new URL('../../packages/cli/dist/vaquero.mjs', import.meta.url).pathname;

/** What a command said, and its exit code. */
export interface Said {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

/** Commands of the client against a service, with a home of its own. */
export function commandLine(
  service: TestService,
  home: string,
  environment: Record<string, string> = {},
  /** What stands at its standard input; nothing otherwise. */
  input: string | null = null,
) {
  return async (...args: string[]): Promise<Said> => {
    const end = await execa(process.execPath, [bundle, ...args], {
      env: {
        PATH: process.env.PATH ?? '',
        XDG_CONFIG_HOME: home,
        VAQUERO_ADDRESS: service.address,
        ...environment,
      },
      extendEnv: false,
      reject: false,
      ...(input === null ? { stdin: 'ignore' as const } : { input }),
    });
    return { code: end.exitCode ?? -1, out: end.stdout, err: end.stderr };
  };
}
