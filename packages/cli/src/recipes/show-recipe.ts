import type { RecipeReply } from '@vaquero/contracts';
import { rulesInWords, shellWord } from '@vaquero/core';
import type { Io } from '../io.ts';
import { table, tone } from '../output.ts';

/** Says what recipe is in force, where it is from, and the further ones beside it. */
export function showRecipe(io: Io, reply: RecipeReply): void {
  showOwn(io, reply);
  for (const { name, file, steps, publishes, fault } of reply.further) {
    if (fault !== null) io.out(tone(io, 'bad', `${file}: ${fault}`));
    else
      io.out(
        `Recipe ${name}: read from ${file}${publishes ? '' : ', makes evidence only'}: ${steps.join(', ')}`,
      );
  }
}

function showOwn(io: Io, reply: RecipeReply): void {
  if (reply.fileFault !== null) io.out(tone(io, 'bad', reply.fileFault));
  if (reply.inForce === null) {
    io.out(
      reply.commit === null
        ? 'There is no commit yet to conclude a recipe from.'
        : `No recipe is in force: ${reply.proposed?.because[0] ?? 'nothing speaks for one'}.`,
    );
    for (const { name, because } of reply.proposed?.candidates ?? []) {
      io.out(`  ${name}`);
      for (const why of because) io.out(`    because  ${why}`);
      io.out(`    take it  vaquero accept-recipe PROJECT --candidate ${shellWord(name)}`);
    }
    return;
  }
  const { recipe, source } = reply.inForce;
  const from = {
    file: 'read from vaquero.yaml in the repository',
    accepted: `accepted as version ${source.from === 'accepted' ? source.version : 0} by ${reply.accepted?.by ?? 'nobody'}`,
    proposed: 'proposed, not accepted yet',
  }[source.from];
  io.out(`Recipe ${recipe.name}: ${from}`);
  for (const line of linesOf(recipe, source)) io.out(line);
  if (reply.differences.length > 0) {
    io.out('The file wins; it says otherwise than the service:');
    io.out(
      table(
        io,
        ['field', reply.accepted === null ? 'proposed' : 'accepted', 'file'],
        reply.differences.map((one) => [one.field, one.ours, one.theirs]),
        1,
      ),
    );
  }
}

type InForce = NonNullable<RecipeReply['inForce']>;

function linesOf(recipe: InForce['recipe'], source: InForce['source']): readonly string[] {
  const steps = recipe.steps.map((step) => {
    const after = step.after.length === 0 ? '' : `   (after ${step.after.join(', ')})`;
    const runs =
      step.borrows === null
        ? step.run.join(' && ')
        : `borrowed: ${step.borrows.step} of ${step.borrows.project} at ${step.borrows.commit.slice(0, 12)}`;
    return `  ${step.name.padEnd(10)} ${runs}${after}${step.network === 'out' ? '   (network: out)' : ''}`;
  });
  const { serve } = recipe;
  return [
    ...(steps.length === 0 ? ['  no step: the files are published as they are'] : steps),
    serve === null
      ? '  serve      nothing'
      : `  serve      ${serve.site ?? 'the folder that the first build writes'}, entry ${serve.entry}, missing ${serve.missing ?? 'none'}`,
    ...(serve === null ? [] : rulesInWords(serve)).map((rule) => `             ${rule}`),
    ...Object.entries(recipe.tools).flatMap(([name, version]) =>
      version === null ? [] : [`  tool       ${name} ${version}`],
    ),
    ...(source.from === 'proposed' ? source.because : []).map((why) => `  because    ${why}`),
    ...(source.from === 'proposed' ? source.warnings : []).map((why) => `  warning    ${why}`),
  ];
}
