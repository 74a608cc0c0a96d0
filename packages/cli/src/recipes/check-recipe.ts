import { readdir, readFile } from 'node:fs/promises';
import { basename, dirname, join, relative, resolve } from 'node:path';
import { readRecipe } from '@vaquero/contracts';
import { orderSteps, type Recipe, recipeFileName, recipeFolderName } from '@vaquero/core';
import { type Context, command, EndedWith, Misuse } from '../command.ts';
import { exitCodes } from '../exit-codes.ts';
import { tone } from '../output.ts';

const mostPaths = 50_000;
/** Folders that hold no source: what a step reads is not looked for in them. */
const left = new Set(['node_modules', '.git']);

/**
 * Checks recipe files where one works, without a service: the one that is named, or the folder's own and the
 * further ones beside it. Each fault comes with its line and column. Ends with code 3 when there is a fault.
 */
export const checkRecipe = command({
  name: 'check-recipe',
  says: 'check a recipe file where you work, without any service',
  examples: ['check-recipe', 'check-recipe .vaquero/rules.yaml'],
  takes: (bare) =>
    bare.argument('[file]', 'one file; those of the folder where you work otherwise'),
  run: async (context, [path]) => {
    const files = path === undefined ? await filesHere() : [path];
    const ends: boolean[] = [];
    for (const file of files) ends.push(await checkFile(context, file));
    if (ends.includes(false)) throw new EndedWith(exitCodes.refused.code);
  },
});

/** The recipe files of the folder where one works. */
async function filesHere(): Promise<readonly string[]> {
  const further = (await namesIn(recipeFolderName))
    .filter((name) => name.endsWith('.yaml'))
    .map((name) => join(recipeFolderName, name));
  const own = (await namesIn('.')).includes(recipeFileName) ? [recipeFileName] : [];
  return own.length + further.length === 0 ? [recipeFileName] : [...own, ...further.sort()];
}

/** Checks one file; false when it has a fault. */
async function checkFile({ io, json }: Context, file: string): Promise<boolean> {
  const text = await readFile(file, 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT' || error.code === 'EISDIR') return null;
    throw error;
  });
  if (text === null) throw new Misuse(await absence(file));
  const folder = dirname(file);
  const isFurther = basename(resolve(folder)) === recipeFolderName;
  const name = isFurther ? join(recipeFolderName, basename(file)) : basename(file);
  const read = readRecipe(text, name, await pathsBelow(isFurther ? dirname(folder) : folder));
  if (json) io.write(`${JSON.stringify({ file, ...read }, null, 2)}\n`);
  else if (read.ok) for (const line of inOrder(file, read.value)) io.out(line);
  else {
    const faults = read.refusal.code === 'recipe-invalid' ? read.refusal.faults : [];
    for (const fault of faults)
      io.err(
        `${file}:${fault.line ?? 1}:${fault.column ?? 1}: ${tone(io, 'bad', fault.path)} ${fault.message}`,
      );
  }
  return read.ok;
}

/** What is said of a file without a fault. */
function inOrder(file: string, recipe: Recipe): readonly string[] {
  const ordered = orderSteps(recipe.steps);
  const names = 'order' in ordered ? ordered.order.map((step) => step.name) : [];
  const kind = recipe.serve === null ? ', which makes evidence only' : '';
  const fresh = recipe.steps.filter(
    (step) => step.borrows === null && (step.reads === null || step.writes === null),
  );
  const lenders = recipe.steps.flatMap((step) =>
    step.borrows === null ? [] : `${step.name} from ${step.borrows.project}`,
  );
  return [
    `${file} is in order${kind}: ${names.length === 0 ? 'no step' : names.join(', ')}.`,
    ...(fresh.length === 0
      ? []
      : [
          `Run in every build, since they do not say what they read and write: ${fresh.map((step) => step.name).join(', ')}.`,
        ]),
    ...(lenders.length === 0
      ? []
      : [`Borrowed, which only the service can check: ${lenders.join(', ')}.`]),
  ];
}

async function absence(file: string): Promise<string> {
  const names = [
    ...(await namesIn(dirname(file))),
    ...(await namesIn(recipeFolderName)).map((name) => join(recipeFolderName, name)),
  ];
  const near = names.find((name) =>
    /^vaquero\.(?:yml|json|toml|yaml\..*)$|^\.vaquero\.ya?ml$|^\.vaquero\/.*\.(?:yml|json)$/i.test(
      name,
    ),
  );
  return `${file} is not there.${near === undefined ? '' : ` Found ${near}; what is read is ${recipeFileName}, and ${recipeFolderName}/*.yaml beside it.`}`;
}

/** Names in a folder; none when it is not there. */
async function namesIn(folder: string): Promise<readonly string[]> {
  return readdir(folder).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT' || error.code === 'ENOTDIR') return [];
    throw error;
  });
}

async function pathsBelow(root: string): Promise<readonly string[] | null> {
  const paths: string[] = [];
  const open = [root];
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    for (const entry of await readdir(at, { withFileTypes: true })) {
      const path = join(at, entry.name);
      if (entry.isDirectory() && !left.has(entry.name)) open.push(path);
      else if (!entry.isDirectory()) paths.push(relative(root, path));
    }
    // A folder this large is not gone through: what is read is then not compared with what is there.
    if (paths.length > mostPaths) return null;
  }
  return paths;
}
