import { below, type CommitView, viewBelow } from './commit-view.ts';
import { type FoundGenerator, findGenerator } from './generators.ts';
import { languagePackages } from './language-packages.ts';
import { type Home, homeOf, involved } from './package-home.ts';
import { hasLock, installScripts, type Workspace, workspacesOf } from './package-manager.ts';
import {
  noTools,
  pagesStep,
  plainRecipe,
  plainStep,
  type Recipe,
  type RecipeStep,
  testsStep,
} from './recipe.ts';
import { routerOf } from './single-page.ts';
import { hasTests } from './site-script.ts';

/** What is concluded of one way to build: a recipe, what speaks for it, and what should be otherwise. */
export interface Concluded {
  readonly recipe: Recipe;
  readonly because: readonly string[];
  readonly warnings: readonly string[];
}

/** Where a script writes its site; null: what exists after the first build says it. */
export interface SiteOfScript {
  readonly site: string | null;
  readonly because: readonly string[];
}

interface Installing {
  readonly home: Home;
  readonly steps: readonly RecipeStep[];
  readonly because: readonly string[];
  readonly warnings: readonly string[];
}

/**
 * The step that installs, as far as there is something to install. It says what it reads and writes, so that with
 * an unchanged lock file nothing is installed again; where scripts of the project run with it, nobody knows what they read.
 */
function installing(view: CommitView, folder: string): Installing {
  const home = homeOf(view, folder);
  const { manager } = home;
  const packages = involved(home).flatMap((at) => home.view.packages[at] ?? []);
  const isEmpty = packages.every((one) => one.dependencies.length === 0) && !hasLock(home.view);
  if (isEmpty)
    return { home, steps: [], because: ['package.json depends on nothing'], warnings: [] };
  const scripts = installScripts(packages);
  const isLocal = packages.some((one) => one.hasLocal);
  const isOpen = scripts.length > 0 || isLocal || manager.writes === null;
  const manifests = involved(home).map((at) => below(at, 'package.json'));
  const step = plainStep({
    name: 'packages',
    run: [`${home.enter}${manager.install}`],
    in: home.in,
    network: 'out',
    sets: manager.sets,
    caches: [manager.cache],
    ...(isOpen || manager.writes === null
      ? {}
      : {
          reads: [...manifests, ...manager.files].map(home.path),
          writes: manager.writes.map(home.path),
        }),
  });
  return {
    home,
    steps: [step],
    because: [
      ...manager.because,
      ...(scripts.length > 0
        ? [
            `package.json runs something while it is installed (${scripts.join(', ')}), which may read anything: it is installed each time`,
          ]
        : []),
    ],
    warnings: manager.warnings,
  };
}

/** Builds a folder's site by a script of its package, after those of the packages beside it that it depends on. */
export function fromScript(
  view: CommitView,
  folder: string,
  script: string,
  siteOf: (view: CommitView, folder: string) => SiteOfScript,
): Concluded {
  const { home, steps, because, warnings } = installing(view, folder);
  const own = viewBelow(view, folder).packages[''];
  const { site, because: why } = siteOf(view, folder);
  const name = below(folder, 'package.json');
  const tests = testsStepOf(view, folder, home, steps);
  const here = viewBelow(view, folder);
  const router = routerOf(here, findGenerator(here));
  const instead = router === null ? {} : { instead: [{ at: '/*', page: '/index.html' }] };
  return {
    recipe: plainRecipe({
      beyond: home.beyond,
      tools: { ...noTools, ...home.manager.tools },
      steps: [
        ...steps,
        plainStep({
          name: pagesStep,
          run: [...neededFirst(home), ...commandOf(home, script)],
          in: home.in,
          sets: home.manager.sets,
          after: steps.map((step) => step.name),
        }),
        ...tests,
      ],
      serve: { site, entry: 'index.html', missing: null, ...instead },
    }),
    because: [
      `${name} has the script ${script}: ${own?.scripts[script] ?? ''}`,
      ...because,
      ...why,
      ...(router === null
        ? []
        : [
            `${name} depends on ${router}, and there is one page: it answers the addresses that have none`,
          ]),
      ...testsWhy(tests, name, view, folder),
    ],
    warnings,
  };
}

function commandOf({ manager, workspace, enter }: Home, script: string): readonly string[] {
  // In its own folder a package needs no name; from above it is named.
  return enter === '' ? [manager.script(script, workspace)] : [manager.script(script, null)];
}

/** Builds of the packages beside it that a workspace depends on, each before those that need it. */
function neededFirst({ view, workspace, manager, enter }: Home): readonly string[] {
  if (workspace === null) return [];
  const all = workspacesOf(view);
  const order: Workspace[] = [];
  const visit = (one: Workspace): void => {
    const depends = view.packages[one.folder]?.dependencies ?? [];
    for (const other of all)
      if (
        other.folder !== one.folder &&
        other.name !== null &&
        depends.includes(other.name) &&
        !order.includes(other)
      ) {
        order.push(other);
        visit(other);
      }
  };
  visit(workspace);
  return order
    .toReversed()
    .filter((one) => view.packages[one.folder]?.scripts.build !== undefined)
    .map((one) => `${enter}${manager.script('build', one)}`);
}

const testsWithinMs = 10 * 60_000;

/** The project's own tests: a step beside the one that builds, which ends the build when it fails. */
function testsStepOf(
  view: CommitView,
  folder: string,
  home: Home,
  after: readonly RecipeStep[],
): readonly RecipeStep[] {
  const own = viewBelow(view, folder).packages[''];
  const isRoot = !hasTests(own) && home.workspace !== null && home.enter === '';
  if (!hasTests(isRoot ? home.view.packages[''] : own)) return [];
  const { manager } = home;
  const command = isRoot ? [manager.script('test', null)] : commandOf(home, 'test');
  return [
    plainStep({
      name: testsStep,
      run: command,
      in: home.in,
      sets: manager.sets,
      after: after.map((step) => step.name),
      withinMs: testsWithinMs,
    }),
  ];
}

function testsWhy(
  tests: readonly RecipeStep[],
  name: string,
  view: CommitView,
  folder: string,
): readonly string[] {
  if (tests.length === 0) return [];
  const script = viewBelow(view, folder).packages['']?.scripts.test;
  return [
    `${name} has the script test${script === undefined ? '' : `: ${script}`}; a failing one fails the build`,
  ];
}

/** The tests of a folder that is not built: with what must be installed for them. */
export function testsOf(
  view: CommitView,
  folder: string,
): Pick<Recipe, 'steps' | 'tools'> & Pick<Concluded, 'because' | 'warnings'> {
  const own = viewBelow(view, folder).packages[''];
  const none = { steps: [], tools: noTools, because: [], warnings: [] };
  if (!hasTests(own)) return none;
  const { home, steps, because, warnings } = installing(view, folder);
  // What an installation around it would take to be shown is more than tests alone are worth.
  if (home.beyond.length > 0) return none;
  const tests = testsStepOf(view, folder, home, steps);
  return {
    steps: [...steps, ...tests],
    tools: { ...noTools, ...home.manager.tools },
    because: [...because, ...testsWhy(tests, below(folder, 'package.json'), view, folder)],
    warnings,
  };
}

/** Builds a folder's site by the command of a generator that is no npm package, with what the commit says it needs. */
export function fromGenerator(
  view: CommitView,
  folder: string,
  { generator, base, folder: written, because }: FoundGenerator,
): Concluded {
  const here = viewBelow(view, folder);
  const place = below(folder, base);
  const needs = languagePackages(here, folder, base, generator.language);
  const command = generator.command ?? '';
  return {
    recipe: plainRecipe({
      steps: [
        ...needs.steps,
        plainStep({
          name: pagesStep,
          run: [needs.command === null ? command : needs.command(place, command)],
          in: place === '' ? null : place,
          sets: needs.sets,
          after: needs.steps.map((step) => step.name),
        }),
      ],
      serve: { site: below(folder, written), entry: 'index.html', missing: null },
    }),
    because: [...because, ...needs.because],
    warnings: needs.warnings,
  };
}
