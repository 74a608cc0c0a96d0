import { shellWord } from '../shell-word.ts';
import { below, type CommitView, viewBelow } from './commit-view.ts';
import { findGenerator, isOwnWork } from './generators.ts';
import { workspacesOf } from './package-manager.ts';
import {
  type Concluded,
  fromGenerator,
  fromScript,
  type SiteOfScript,
  testsOf,
} from './proposed-steps.ts';
import { noTools, plainRecipe, type Recipe, type Serve } from './recipe.ts';
import { siteScript } from './site-script.ts';

/** One answer of several: what it is called, and what would be built. */
export interface Candidate {
  readonly name: string;
  readonly recipe: Recipe;
  readonly because: readonly string[];
}

/** A recipe concluded from a commit, with what it was concluded from; or why there is none, and what could be one. */
export interface Proposal {
  readonly recipe: Recipe | null;
  readonly because: readonly string[];
  /** What works, and should be otherwise. */
  readonly warnings: readonly string[];
  /** Sites of which a person takes one. */
  readonly candidates: readonly Candidate[];
}

/** Names that people write when they mean the recipe's. */
const nearMiss =
  /^(?:\.?vaquero\.(?:yml|json|toml)|\.vaquero\.yaml|Vaquero\.ya?ml|vaquero\.yaml\.\w+|\.vaquero\/(?:vaquero|site)\.ya?ml)$/;

/**
 * Proposes a recipe for a commit that has no recipe file: from what its package.json runs, from the files of
 * generators, from pages that stand there as they are, in the folder itself or in one of its packages.
 */
export function proposeRecipe(view: CommitView): Proposal {
  const near = view.paths.find((path) => nearMiss.test(path));
  if (near !== undefined)
    return none([
      `${near} is there, but what is read is vaquero.yaml in the project’s folder: rename it`,
    ]);
  const own = siteIn(view, '');
  if (own !== null) return proposed(withNode(own, view));
  const inside = sitesInside(view).map((one) => ({ ...one, ...withNode(one, view) }));
  const [first] = inside;
  if (first !== undefined && inside.length === 1) return proposed(first);
  if (inside.length > 1)
    return {
      ...none([
        `the repository has ${inside.length} sites, and no recipe says which one this project is: ${inside.map(({ name }) => name).join(', ')}`,
        ...inside.map(
          ({ name }) => `vaquero accept-recipe PROJECT --candidate ${shellWord(name)} takes it`,
        ),
      ]),
      candidates: inside.map(({ name, recipe, because }) => ({ name, recipe, because })),
    };
  return proposed(withNode(nothing(view), view));
}

function none(because: readonly string[]): Proposal {
  return { recipe: null, because, warnings: [], candidates: [] };
}

function proposed({ recipe, because, warnings }: Concluded): Proposal {
  return { recipe, because, warnings, candidates: [] };
}

/** The Node that a commit wishes stands in the recipe of whatever needs one. */
function withNode(one: Concluded, { node }: CommitView): Concluded {
  const needs = one.recipe.steps.some((step) => step.run.some((run) => usesNode.test(run)));
  if (node === null || !needs) return one;
  const said = `${node.from} wishes Node ${node.text}`;
  return {
    recipe: { ...one.recipe, tools: { ...one.recipe.tools, node: node.line } },
    because: [...one.because, `${said}, so it is built with ${node.line}`],
    warnings: node.isMet
      ? one.warnings
      : [
          ...one.warnings,
          `${said}, which none of the lines 20, 22 and 24 satisfies: ${node.line} is taken`,
        ],
  };
}

const usesNode = /\b(?:npm|pnpm|yarn|node)\b/;

/**
 * The site of a folder of the view, if it shows one. A package that runs something is built by that; a generator of
 * another language by its command; pages that stand there are published as they are.
 */
function siteIn(view: CommitView, folder: string): Concluded | null {
  const here = viewBelow(view, folder);
  const own = here.packages[''];
  const found = findGenerator(here);
  const script = own === undefined ? null : siteScript(own, found?.generator);
  if (own !== undefined && script !== null) return fromScript(view, folder, script, siteOfScript);
  if (found?.generator.command !== undefined) return fromGenerator(view, folder, found);
  const pages = ['', 'public', 'site', 'docs', 'www'].find((name) =>
    here.paths.includes(below(name, 'index.html')),
  );
  if (pages === undefined) return null;
  const site = below(folder, pages);
  const tests = testsOf(view, folder);
  return {
    recipe: plainRecipe({
      tools: tests.tools,
      steps: tests.steps,
      serve: serve(site === '' ? '.' : site, viewBelow(here, pages).paths),
    }),
    because: [
      `${below(site, 'index.html')} is there, and no package.json names a script that writes a site`,
      ...tests.because,
    ],
    warnings: tests.warnings,
  };
}

/** Where a package's script writes: what its generator says, or the site of the one workspace that has one; null: open. */
function siteOfScript(view: CommitView, folder: string): SiteOfScript {
  const here = viewBelow(view, folder);
  const found = findGenerator(here);
  if (found !== undefined) return { site: below(folder, found.folder), because: found.because };
  const spaces = workspacesOf(here).filter((one) => isOwnWork(one.folder));
  const sites = spaces.flatMap((one) => {
    const inner = findGenerator(viewBelow(here, one.folder));
    return inner === undefined ? [] : [{ ...inner, in: one.folder }];
  });
  const [only] = sites;
  if (only !== undefined && sites.length === 1)
    return {
      site: below(folder, below(only.in, only.folder)),
      because: only.because.map((why) => `${only.in}: ${why}`),
    };
  return { site: null, because: ['the folder is taken from what exists after the first build'] };
}

const deepestSite = 3;
/** As many as anybody would choose from. */
const mostSites = 12;

/** Sites in folders of the view: packages that run something a browser is shown, and generators' own folders. */
function sitesInside(view: CommitView): readonly (Candidate & Concluded)[] {
  const folders = Object.keys(view.packages)
    .filter((folder) => folder !== '' && folder.split('/').length <= deepestSite)
    .filter(isOwnWork)
    .toSorted();
  const sites: (Candidate & Concluded)[] = [];
  for (const folder of folders) {
    const here = viewBelow(view, folder);
    const isSite = findGenerator(here) !== undefined || here.paths.includes('index.html');
    const one = isSite ? siteIn(view, folder) : null;
    if (one !== null) sites.push({ name: folder, ...one });
    if (sites.length === mostSites) break;
  }
  return sites;
}

/** Nothing looks like a site: what can be said of the commit is whether its tests pass. */
function nothing(view: CommitView): Concluded {
  const tests = testsOf(view, '');
  return {
    recipe: plainRecipe({ tools: { ...noTools, ...tests.tools }, steps: tests.steps, serve: null }),
    because: [
      'nothing here looks like a site: no package.json names a script that writes one, and no index.html stands in the folder, public, site, docs or www',
      ...tests.because,
    ],
    warnings: tests.warnings,
  };
}

function serve(site: string, paths: readonly string[]): Serve {
  return { site, entry: 'index.html', missing: paths.includes('404.html') ? '404.html' : null };
}

/**
 * Fills what a build has shown into a proposal: its folder, the folder of the host that it was built for, and whether
 * it is one page. `paths` are those of its output.
 */
export function withOutput(
  recipe: Recipe,
  folder: string,
  paths: readonly string[],
  base: string | null,
): Recipe {
  const filled = withFolder(recipe, folder, paths.includes('404.html'));
  if (filled.serve === null) return filled;
  const pages = paths.filter((path) => path.endsWith('.html') && !/^(?:404|200)\.html$/.test(path));
  const { instead, ...serve } = filled.serve;
  const isOnePage = instead !== undefined && pages.length === 1;
  const at = base ?? serve.base ?? '/';
  return {
    ...filled,
    serve: {
      ...serve,
      ...(base === null ? {} : { base }),
      ...(isOnePage ? { instead: [{ at: `${at}*`, page: `${at}${serve.entry}` }] } : {}),
    },
  };
}

/** Fills the folder that a build has shown into a recipe that left it open. */
export function withFolder(recipe: Recipe, folder: string, hasMissingPage: boolean): Recipe {
  if (recipe.serve === null) return recipe;
  const missing = recipe.serve.missing ?? (hasMissingPage ? '404.html' : null);
  return { ...recipe, serve: { ...recipe.serve, site: folder, missing } };
}
