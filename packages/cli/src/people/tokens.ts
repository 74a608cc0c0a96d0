import { peopleRoutes } from '@vaquero/contracts';
import { type Context, give } from '../command.ts';
import { table, when } from '../output.ts';

/** Makes a token; its secret is written once, alone on stdout, so that it can be piped. */
export async function makeToken(
  context: Context,
  name: string,
  kind: 'all' | 'git',
  days: number,
): Promise<void> {
  give(
    context,
    await context.client.call(peopleRoutes.makeTokenRoute, { body: { name, kind, days } }),
    (token) => {
      context.io.out(token.secret);
      context.io.err(
        `Token "${token.name}" (${token.kind === 'git' ? 'Git only' : 'all that you may do'}) until ${when(token.expiresAt)}. It is not shown again.`,
      );
    },
  );
}

/** Lists one's living tokens. */
export async function listTokens(context: Context): Promise<void> {
  give(context, await context.client.call(peopleRoutes.listTokensRoute), (tokens) => {
    context.io.out(
      table(
        context.io,
        ['id', 'name', 'kind', 'until', 'last used'],
        tokens.map((token) => [
          token.id,
          token.name,
          token.kind,
          when(token.expiresAt),
          token.lastUsedAt === null ? 'never' : when(token.lastUsedAt),
        ]),
        1,
      ),
    );
  });
}

/** Takes a token back. */
export async function revokeToken(context: Context, id: string): Promise<void> {
  await context.client.call(peopleRoutes.revokeTokenRoute, { params: { token: id } });
  context.io.err(`Token ${id} is taken back.`);
}
