import { type FirstSight, type ProjectTrial, readRecipe } from '@vaquero/contracts';
import { authorInWords, type DocumentFault, recipeFileName } from '@vaquero/core';
import { askUntilSound } from '../ask-until-sound.ts';
import type { Context } from '../command.ts';
import { safe, bytes as size, when } from '../output.ts';

type There = ProjectTrial['repository'];
type Recipe = FirstSight['folders'][number]['recipe'];

const another = '\0';

/** Says what is at a repository: its newest commit, its size, its languages. */
export function saySight(io: Context['io'], there: There): void {
  if (there?.unseen != null) io.err(safe(there.unseen));
  if (there?.sight == null) return;
  const { head, files, bytes, languages } = there.sight;
  io.err(
    `  newest   ${head.commit.slice(0, 7)} ${safe(head.subject)}, by ${safe(authorInWords(head))}, ${when(head.at)}`,
  );
  io.err(`  holds    ${files} ${files === 1 ? 'file' : 'files'}, ${size(bytes)}`);
  const told = languages.map(({ name, percent }) => `${safe(name)} ${percent} %`);
  if (told.length > 0) io.err(`  in       ${told.join(', ')}`);
}

/** Asks for the folder, shows how it would be built, and takes a recipe of one's own where the repository has none. */
export async function askForFolder(
  { io }: Context,
  there: There,
): Promise<{ readonly folder: string; readonly recipe: string | null }> {
  const folders = there?.sight?.folders ?? [];
  const chosen =
    folders.length < 2
      ? another
      : await io.choose('Its folder in the repository', [
          ...folders.map(({ folder }) => ({
            value: folder,
            says: folder === '' ? 'all of it' : folder,
          })),
          { value: another, says: 'another one' },
        ]);
  const folder =
    chosen === another
      ? await io.line('Its folder in the repository; empty for all of it')
      : chosen;
  const found = folders.find((one) => one.folder === folder)?.recipe;
  return { folder, recipe: found === undefined ? null : await askForRecipe(io, found) };
}

/** Null where it stays as it was found. */
async function askForRecipe(
  io: Context['io'],
  { from, text, because, fault, reads }: Recipe,
): Promise<string | null> {
  io.err(
    from === 'file' ? 'It is built by the recipe of the repository:' : 'It would be built so:',
  );
  if (text !== null) io.err(safe(text).trimEnd());
  for (const one of because) io.err(`  ${safe(one)}`);
  if (fault !== null) io.err(safe(fault));
  if (reads.length > 0)
    io.err(`Nobody has set what it is given: ${reads.map(safe).join(', ')} (vaquero set, later).`);
  if (from === 'file' || text === null) return null;
  const isFine = await io.choose('Is it right?', [
    { value: true, says: 'It is: build it so' },
    { value: false, says: 'Write it otherwise first' },
  ]);
  return isFine ? null : askUntilSound(io, { what: 'The recipe', text, read: recipeFaults });
}

function recipeFaults(text: string): readonly DocumentFault[] {
  const read = readRecipe(text, recipeFileName);
  return read.ok || read.refusal.code !== 'recipe-invalid' ? [] : read.refusal.faults;
}
