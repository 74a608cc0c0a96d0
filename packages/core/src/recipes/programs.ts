import type { RecipeStep } from './recipe.ts';

/** Words of a shell's own, and programs whose version says nothing of what they do. */
const own = new Set(
  'alias break case cd command continue do done echo elif else esac eval exec exit export false fi for function if in local printf pwd read return set shift source test then time trap true type ulimit umask unset until wait while cat chmod chown cp cut date dirname basename env expr find grep head install ln ls mkdir mv nice rm rmdir seq sed sh bash sleep sort tail tee touch tr uniq wc xargs awk . : [ [[ { } !'.split(
    ' ',
  ),
);
/** Programs that only start another one. */
const fronts = new Set(['exec', 'time', 'env', 'nice', 'command', 'xargs', '!']);
const isName = /^[A-Za-z][\w.+-]{0,39}$/;
/** What is asked of one step at most; a recipe could name thousands. */
const mostPrograms = 20;

/**
 * The programs that a step's commands start by their names, as far as a shell's words show them. Those of the project itself, which
 * are named by a path, are part of what the step reads.
 */
export function programsOf({ run }: Pick<RecipeStep, 'run'>): readonly string[] {
  const programs = new Set<string>();
  for (const command of run) {
    // Quoted text names nothing; what stands in $(…) begins a command of its own.
    const plain = command.replace(/'[^']*'|"[^"$]*"/g, ' x ').replace(/\$\(|`/g, ' ; ');
    for (const part of plain.split(/&&|\|\||[;|&\n(){}]/)) {
      const program = firstProgram(part.trim().split(/\s+/));
      if (program !== null) programs.add(program);
      if (programs.size >= mostPrograms) return [...programs];
    }
  }
  return [...programs];
}

function firstProgram(words: readonly string[]): string | null {
  for (const word of words) {
    if (/^\w+=/.test(word) || fronts.has(word) || /^(?:then|do|else|if|while)$/.test(word))
      continue;
    return isName.test(word) && !own.has(word) ? word : null;
  }
  return null;
}

/** Tools whose versions count for every step, since scripts start them without its commands saying so. */
const always = ['system', 'node', 'npm', 'git', 'python3'];

/** Of the versions that are known those that a recipe's steps use. */
export function toolsOfRecipe(
  { steps }: { readonly steps: readonly Pick<RecipeStep, 'run'>[] },
  tools: Readonly<Record<string, string>>,
): Readonly<Record<string, string>> {
  return Object.assign(toolsFor({ run: [] }, tools), ...steps.map((step) => toolsFor(step, tools)));
}

/** Of the versions that are known those that a step's result hangs on. */
export function toolsFor(
  step: Pick<RecipeStep, 'run'>,
  tools: Readonly<Record<string, string>>,
): Readonly<Record<string, string>> {
  return Object.fromEntries(
    [...always, ...programsOf(step)].flatMap((name) => {
      const version = Object.hasOwn(tools, name) ? tools[name] : undefined;
      return version === undefined ? [] : [[name, version]];
    }),
  );
}
