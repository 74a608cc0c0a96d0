import {
  allow,
  type Decision,
  type DocumentFault,
  graphFaults,
  type Recipe,
  type RecipeFault,
  readFaults,
  recipeFileName,
  recipeFolderName,
  refuse,
  ruleFaults,
  rulesOf,
} from '@vaquero/core';
import type { z } from 'zod';
import { type Language, placedFaults, readDocument } from '../documents/read-document.ts';
import { recipeOf, recipeSchema } from './recipe-schema.ts';

const language: Language<typeof recipeSchema> = {
  schema: recipeSchema,
  noun: 'recipe',
  notKnownYet: new Set(['server', 'configuration']),
  keysAt: [
    [/^$/, Object.keys(recipeSchema.shape)],
    [/^steps\.[^.]+$/, Object.keys(recipeSchema.shape.steps.unwrap().valueType.shape)],
    [/^beside\.[^.]+$/, Object.keys(recipeSchema.shape.beside.unwrap().valueType.shape)],
    [/^serve$/, ['site', 'entry', 'missing', 'base', 'moved', 'instead', 'headers', 'immutable']],
    [/\.borrows$/, ['project', 'step', 'commit']],
    [/^again$/, ['cron', 'branch']],
    [/(?:^|\.)for$/, ['branch', 'tag', 'proposed-into']],
    [/\.results$/, ['tests', 'findings']],
    [/^tools$/, ['node', 'pnpm', 'yarn']],
  ],
};

/**
 * Reads the text of a recipe file. `paths`, those of the commit below the project's folder, let it find
 * steps that read what is not there.
 * Refuses: recipe-invalid, each fault with its line and column.
 */
export function readRecipe(
  text: string,
  file: string = recipeFileName,
  paths: readonly string[] | null = null,
): Decision<Recipe> {
  const read = readDocument(text, language);
  if (!read.ok) return invalid(file, read.faults);
  const recipe = recipeOf(read.value, nameOfFile(file));
  const faults = [
    ...serveFaults(read.value, file),
    ...(recipe.serve === null ? [] : ruleFaults(rulesOf(recipe.serve))),
    ...graphFaults(recipe),
    ...(paths === null ? [] : readFaults(recipe, paths)),
  ];
  return faults.length === 0 ? allow(recipe) : invalid(file, faults.map(read.placed));
}

/** A recipe in the folder of further ones is named like its file. */
function nameOfFile(file: string): string {
  const name =
    file
      .split('/')
      .at(-1)
      ?.replace(/\.yaml$/, '') ?? '';
  return isFurther(file) && /^[a-z][a-z0-9-]{0,39}$/.test(name) ? name : 'site';
}

function isFurther(file: string): boolean {
  return file.split('/').at(-2) === recipeFolderName;
}

/** A file that forgot to say what it publishes would build for ever and show nothing. */
function serveFaults(
  { serve }: z.output<typeof recipeSchema>,
  file: string,
): readonly RecipeFault[] {
  if (serve !== null || isFurther(file)) return [];
  const message = `is missing: ${recipeFileName} says what is published, such as serve: {site: dist}; where nothing is, it says serve: nothing`;
  return [{ path: ['serve'], message }];
}

/** Faults of a recipe's text that showed only beside other files, at their places in it. */
export function placeFaults(
  text: string,
  file: string,
  faults: readonly RecipeFault[],
): Decision<never> {
  return invalid(file, placedFaults(text, faults));
}

function invalid(file: string, faults: readonly DocumentFault[]): Decision<never> {
  return refuse({ code: 'recipe-invalid', file, faults });
}
