import { peopleRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { when } from '../output.ts';
import { clientFor, forgetSession, keepSession } from '../session.ts';

/** Signs in with a password and keeps a token for this machine. */
export async function signIn(
  context: Context,
  name: string,
  password: string | undefined,
): Promise<void> {
  const given = password ?? (await context.io.secret(`Password of ${name}: `));
  const { address } = context.client;
  const token = await clientFor(address, undefined).call(peopleRoutes.signInForTokenRoute, {
    body: { name, password: given, token: `command line, ${when(Date.now())}`, days: 30 },
  });
  await keepSession(context.sessionPath, { address, token: token.secret, name });
  context.io.err(`Signed in at ${address} as ${name} until ${when(token.expiresAt)}.`);
}

/** Takes the kept token back and forgets it. */
export async function signOut(context: Context): Promise<void> {
  const tokens = await context.client.call(peopleRoutes.listTokensRoute);
  const own = tokens.filter((token) => token.name.startsWith('command line,'));
  for (const token of own)
    await context.client.call(peopleRoutes.revokeTokenRoute, { params: { token: token.id } });
  await forgetSession(context.sessionPath);
  context.io.err(
    `Signed out; ${own.length} command-line ${own.length === 1 ? 'token is' : 'tokens are'} taken back.`,
  );
}

/** Says who one is and what one was granted. */
export async function whoAmI(context: Context): Promise<void> {
  give(context, await context.client.call(peopleRoutes.meRoute), (me) => {
    context.io.out(
      `${me.shownAs} (${me.name}): ${me.grants.map((grant) => `${grant.role} ${grant.project === null ? 'of the installation' : `in ${grant.project}`}`).join(', ') || 'no grant'}`,
    );
  });
}
