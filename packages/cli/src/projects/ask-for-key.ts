import { credentialRoutes } from '@vaquero/contracts';
import { type Context, Misuse, NotDone } from '../command.ts';
import { safe } from '../output.ts';

/** A key that was made for a repository over SSH, and the key of its host that somebody has confirmed. */
export interface ConfirmedKey {
  readonly key: string;
  readonly hostKey: string;
}

/** Says what was made: the public half to copy, and what the host shows. */
export function sayKey(
  { io }: Pick<Context, 'io'>,
  { place, publicKey, hostKeys }: credentialRoutes.KeyMade,
): void {
  io.out(`A key that reads ${safe(place)}; add this line there:`);
  io.write(`${safe(publicKey)}\n`);
  io.out('Its host shows:');
  for (const { type, fingerprint } of hostKeys) io.out(`  ${safe(type)}  ${safe(fingerprint)}`);
}

/** Asks whether the host is the right one, and waits until the key was added. Throws NotDone where it is not, or nobody answers. */
export async function askForKey(
  context: Context,
  made: credentialRoutes.KeyMade,
): Promise<ConfirmedKey> {
  const { io } = context;
  sayKey(context, made);
  const hostKey = await io.choose('Which does whoever runs the host say is its own?', [
    ...made.hostKeys.map(({ fingerprint }) => ({ value: fingerprint, says: fingerprint })),
    { value: null, says: 'none of these' },
  ]);
  if (hostKey === null) throw new NotDone('Nothing is read from a host that is not the right one.');
  const isAdded = await io.choose('Is the key added there?', [
    { value: true, says: 'It is: try it' },
    { value: false, says: 'Leave it' },
  ]);
  if (!isAdded) throw new NotDone('Nothing was changed.');
  return { key: made.key, hostKey };
}

/** What options say of a key. */
export interface KeyOptions {
  readonly private?: true | undefined;
  readonly key?: string | undefined;
  readonly hostKey?: string | undefined;
}

/** The key that is named, or one that is made, shown and confirmed now. Throws Misuse where nobody is there to be asked. */
export async function keyFor(
  context: Context,
  url: string,
  { private: isPrivate, key, hostKey }: KeyOptions,
): Promise<ConfirmedKey> {
  if (isPrivate === true) throw new Misuse('--private asks for a token; over SSH a key is made.');
  if (key !== undefined && hostKey !== undefined) return { key, hostKey };
  if (key !== undefined || hostKey !== undefined || !context.io.isTerminal)
    throw new Misuse(
      `Over SSH a key is made first: vaquero repository-key --url ${url}. Then give --key and --host-key.`,
    );
  return await askForKey(
    context,
    await context.client.call(credentialRoutes.makeKeyRoute, { body: { url } }),
  );
}
