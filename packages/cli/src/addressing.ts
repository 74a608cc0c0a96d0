import { type Client, makeClient } from '@vaquero/contracts';
import { keptSignIn, sessionPath } from './people/kept-sign-in.ts';
import { workingCopySettings } from './projects/working-copy.ts';

/** Where a setting was found. */
export type Source = 'option' | 'environment' | 'working copy' | 'sign-in' | 'default';

/** What the command was told of the service, and by whom. */
export interface Found {
  readonly address: string;
  readonly addressFrom: Source;
  readonly token: string | undefined;
  readonly tokenFrom: Source | null;
  /** The working copy's file, if there is one. */
  readonly workingCopy: string | null;
  /** Where the person's sign-in is kept. */
  readonly signIn: string;
}

const usual = 'http://localhost:4600';

/** What the command line and the environment say. */
export interface Given {
  readonly address?: string | undefined;
  readonly token?: string | undefined;
}

/**
 * Finds address and token: what the command line says, else the environment, else the working copy's file, else the
 * person's sign-in. A token that was kept goes only to the address that it was kept for.
 */
export async function findService(
  given: Given,
  environment: Readonly<Record<string, string | undefined>>,
  folder: string,
): Promise<Found> {
  const signIn = sessionPath(environment);
  const [here, kept] = await Promise.all([workingCopySettings(folder), keptSignIn(signIn)]);
  const sayings: readonly (readonly [Source, string | undefined])[] = [
    [environment.VAQUERO_ADDRESS === given.address ? 'environment' : 'option', given.address],
    ['working copy', here?.address],
    ['sign-in', kept?.address],
    ['default', usual],
  ];
  const [addressFrom, address = usual] =
    sayings.find(([, said]) => said !== undefined) ?? (['default', usual] as const);
  const tokens: readonly (readonly [Source, string | undefined])[] = [
    [environment.VAQUERO_TOKEN === given.token ? 'environment' : 'option', given.token],
    ['working copy', here?.address === address ? here.token : undefined],
    ['sign-in', kept?.address === address ? kept.token : undefined],
  ];
  const [tokenFrom, token] = tokens.find(([, said]) => said !== undefined) ?? [null, undefined];
  return { address, addressFrom, token, tokenFrom, workingCopy: here?.path ?? null, signIn };
}

/** A source in words. */
export function sourceInWords(source: Source, { workingCopy, signIn }: Found): string {
  return {
    option: 'the command line',
    environment: 'the environment',
    'working copy': `the working copy (${workingCopy})`,
    'sign-in': `your sign-in (${signIn})`,
    default: 'nobody: it is the usual one',
  }[source];
}

/** A client with a token, or without one. */
export function clientFor(
  address: string,
  token: string | undefined,
  signal?: AbortSignal,
): Client {
  return makeClient({
    ...(signal === undefined ? {} : { signal }),
    address: address.replace(/\/$/, ''),
    headers: {
      'vaquero-client': 'cli',
      ...(token === undefined ? {} : { authorization: `Bearer ${token}` }),
    },
  });
}
