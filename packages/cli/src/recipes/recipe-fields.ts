import type { recipeRoutes } from '@vaquero/contracts';
import type { z } from 'zod';
import { Misuse } from '../command.ts';

/** Fields of a recipe as the command line sets them: those of steps as `STEP=…`. */
export interface RecipeFields {
  readonly site?: string | undefined;
  readonly entry?: string | undefined;
  readonly missing?: string | undefined;
  readonly base?: string | undefined;
  readonly instead: readonly string[];
  readonly candidate?: string | undefined;
  readonly serveNothing?: boolean | undefined;
  readonly run: readonly string[];
  readonly without: readonly string[];
  readonly network: readonly string[];
  readonly given: readonly string[];
  readonly caches: readonly string[];
  readonly tool: readonly string[];
}

type Wishes = z.input<typeof recipeRoutes.acceptRecipeRoute.body>;
type StepWishes = NonNullable<Wishes['steps']>[string];

/** What is asked of the service. Throws Misuse where a pair is none. */
export function wishesOf(fields: RecipeFields): Wishes {
  const { site, entry, missing, base, candidate } = fields;
  return {
    ...(site === undefined ? {} : { site }),
    ...(entry === undefined ? {} : { entry }),
    ...(missing === undefined ? {} : { missing: missing === '' ? null : missing }),
    ...(base === undefined ? {} : { base }),
    ...(fields.instead.length === 0 ? {} : { instead: insteadOf(fields) }),
    ...(candidate === undefined ? {} : { candidate }),
    ...(fields.serveNothing === true ? { serve: 'nothing' as const } : {}),
    ...some('run', commandsOf(fields)),
    ...some('steps', stepsOf(fields)),
    ...some('tools', toolsOf(fields)),
  };
}

function insteadOf({ instead }: RecipeFields): NonNullable<Wishes['instead']> {
  const said = instead.filter((pair) => pair !== 'none');
  return Object.fromEntries(pairs('--instead', 'ADDRESS=PAGE or none', said));
}

function some(key: string, said: object): object {
  return Object.keys(said).length === 0 ? {} : { [key]: said };
}

function commandsOf({ run, without }: RecipeFields): NonNullable<Wishes['run']> {
  const commands: Record<string, string[]> = Object.fromEntries(without.map((step) => [step, []]));
  for (const [step, command] of pairs('--run', 'STEP=COMMAND', run))
    commands[step] = [...(commands[step] ?? []), ...(command === '' ? [] : [command])];
  return commands;
}

function stepsOf({ network, given, caches }: RecipeFields): NonNullable<Wishes['steps']> {
  const steps: Record<string, StepWishes> = {};
  const wish = (step: string, said: StepWishes): void => {
    steps[step] = { ...steps[step], ...said };
  };
  for (const [step, said] of pairs('--network', 'STEP=none or STEP=out', network)) {
    if (said !== 'none' && said !== 'out')
      throw new Misuse(`--network takes STEP=none or STEP=out, not "${step}=${said}"`);
    wish(step, { network: said });
  }
  for (const [step, said] of pairs('--given', 'STEP=NAME,NAME', given))
    wish(step, { given: listOf(said) });
  for (const [step, said] of pairs('--caches', 'STEP=FOLDER,FOLDER', caches))
    wish(step, { caches: listOf(said) });
  return steps;
}

function toolsOf({ tool }: RecipeFields): NonNullable<Wishes['tools']> {
  return Object.fromEntries(
    pairs('--tool', 'NAME=VERSION', tool).map(([name, version]) => {
      if (name === 'node' && !/^\d*$/.test(version))
        throw new Misuse(`--tool node takes a line, such as node=22, not "${version}"`);
      return [name, version === '' ? null : name === 'node' ? Number(version) : version];
    }),
  );
}

function pairs(
  option: string,
  form: string,
  said: readonly string[],
): readonly (readonly [string, string])[] {
  return said.map((pair) => {
    const at = pair.indexOf('=');
    if (at < 1) throw new Misuse(`${option} takes ${form}, not "${pair}"`);
    return [pair.slice(0, at), pair.slice(at + 1)] as const;
  });
}

function listOf(text: string): string[] {
  return text.split(',').filter((part) => part !== '');
}
