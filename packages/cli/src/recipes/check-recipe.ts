import { readdir, readFile } from 'node:fs/promises';
import { basename, dirname, join, relative } from 'node:path';
import { readRecipe, recipeJsonSchema } from '@vaquero/contracts';
import { orderSteps, recipeFileName } from '@vaquero/core';
import { type Context, EndedWith, Misuse } from '../command.ts';
import { tone } from '../output.ts';

/** The exit code of a file that was checked and has faults. */
const faulty = 3;
const mostPaths = 50_000;
/** Folders that hold no source: what a step reads is not looked for in them. */
const left = new Set(['node_modules', '.git']);

/**
 * Checks a recipe file where one works, without a service: each fault with its line and column, and the
 * names that are close but not read. Ends with code 3 when there is a fault.
 */
export async function checkRecipe({ io, json }: Context, path: string | undefined): Promise<void> {
  const file = path ?? recipeFileName;
  const text = await readFile(file, 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT' || error.code === 'EISDIR') return null;
    throw error;
  });
  if (text === null) throw new Misuse(await absence(file));
  const folder = dirname(file);
  const read = readRecipe(text, basename(file), await pathsBelow(folder));
  if (json) io.out(JSON.stringify(read, null, 2));
  if (!read.ok) {
    const faults = read.refusal.code === 'recipe-invalid' ? read.refusal.faults : [];
    for (const fault of json ? [] : faults)
      io.err(
        `${file}:${fault.line ?? 1}:${fault.column ?? 1}: ${tone(io, 'bad', fault.path)} ${fault.message}`,
      );
    throw new EndedWith(faulty);
  }
  if (json) return;
  const ordered = orderSteps(read.value.steps);
  const names = 'order' in ordered ? ordered.order.map((step) => step.name) : [];
  io.out(`${file} is in order: ${names.length === 0 ? 'no step' : names.join(', ')}.`);
  const fresh = read.value.steps.filter((step) => step.reads === null || step.writes === null);
  if (fresh.length > 0)
    io.out(
      `Run in every build, since they do not say what they read and write: ${fresh.map((step) => step.name).join(', ')}.`,
    );
}

/** Writes the language as JSON Schema, for an editor. */
export function writeSchema({ io }: Context): Promise<void> {
  io.out(JSON.stringify(recipeJsonSchema(), null, 2));
  return Promise.resolve();
}

async function absence(file: string): Promise<string> {
  const names = await readdir(dirname(file)).catch(() => []); // Then the folder is not there either, and nothing is near.
  const near = names.find((name) =>
    /^vaquero\.(?:yml|json|toml|yaml\..*)$|^\.vaquero\.ya?ml$/i.test(name),
  );
  return `${file} is not there.${near === undefined ? '' : ` Found ${near}; what is read is ${recipeFileName}.`}`;
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
