import type { VariablesReply } from '@vaquero/contracts';
import type { Io } from '../io.ts';
import { safe, table, tone, when } from '../output.ts';

/** Says what is set, and what a recipe reads that nobody set. */
export function showVariables(io: Io, { variables, unset }: VariablesReply): void {
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
