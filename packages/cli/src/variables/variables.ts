import { type VariablesReply, variableRoutes } from '@vaquero/contracts';
import { type Context, give, Misuse } from '../command.ts';
import { safe, table, tone, when } from '../output.ts';

/** Lists variables and secrets: names, who set them and when; a secret's value is never shown. */
export async function listVariables(context: Context, project: string): Promise<void> {
  const params = { project };
  give(context, await context.client.call(variableRoutes.listVariablesRoute, { params }), (reply) =>
    show(context, reply),
  );
}

/** What `set` was told beside the name. */
export interface SetOptions {
  readonly secret: boolean;
  readonly environment: string;
  readonly value: string | undefined;
}

/** Sets a variable; its value is asked for, or read from standard input, so that no shell keeps it. */
export async function setVariable(
  context: Context,
  project: string,
  name: string,
  { secret, environment, value: given }: SetOptions,
): Promise<void> {
  const { io } = context;
  const question = `Value of ${name}: `;
  const value = given ?? (secret ? await io.secret(question) : await io.ask(question));
  if (value === '') throw new Misuse('A variable needs a value. To take one away: vaquero unset.');
  const reply = await context.client.call(variableRoutes.setVariableRoute, {
    params: { project, variable: name },
    query: { environment },
    body: { kind: secret ? 'secret' : 'plain', value },
  });
  give(context, reply, (now) => show(context, now));
}

/** Takes a variable away. */
export async function unsetVariable(
  context: Context,
  project: string,
  name: string,
  environment: string,
): Promise<void> {
  await context.client.call(variableRoutes.dropVariableRoute, {
    params: { project, variable: name },
    query: { environment },
  });
  await listVariables(context, project);
}

function show({ io }: Context, { variables, unset }: VariablesReply): void {
  if (variables.length === 0) io.out('No variable is set.');
  else
    io.out(
      table(
        io,
        ['name', 'for', 'value', 'set by', 'set', 'last used'],
        variables.map((one) => [
          one.name,
          one.environment === '' ? 'every build' : one.environment,
          one.value === null ? tone(io, 'quiet', 'secret') : safe(one.value),
          safe(one.by),
          when(one.setAt),
          one.usedAt === null ? 'never' : when(one.usedAt),
        ]),
        2,
      ),
    );
  for (const name of unset)
    io.out(
      tone(io, 'warn', `${name} is read by the recipe and set by nobody: a build would stop.`),
    );
}
