import { plainStep, type Recipe, type RecipeStep, type Tools } from './recipe.ts';

/** Where pinned tools stand in a build's tree. */
const toolsFolder = '.tools';

/** The folders of programs of the tools that a recipe pins, in a build's tree. */
export function toolPrograms(tools: Tools): readonly string[] {
  return pinned(tools).map(([name]) => `${toolsFolder}/${name}/bin`);
}

function pinned(tools: Tools): readonly (readonly [keyof Tools, string])[] {
  return (['node', 'pnpm', 'yarn'] as const).flatMap((name) => {
    const version = tools[name] ?? null; // A recipe that was kept before there were some names none.
    return version === null ? [] : [[name, String(version)] as const];
  });
}

/**
 * A plan with steps that fetch the tools it pins, before all others. They read nothing, so each runs once
 * for each version and machine and is restored afterwards like any other. Node comes as the npm package that
 * carries its binaries, one for each processor, unless the machine's own is of that line.
 */
export function withTools(plan: Recipe): Recipe {
  const fetches = pinned(plan.tools).map(([name, version]) =>
    name === 'node' ? fetchNode(version) : fetchManager(name, version),
  );
  if (fetches.length === 0) return plan;
  const names = fetches.map((step) => step.name);
  return {
    ...plan,
    steps: [
      ...fetches,
      ...plan.steps.map((step) => ({ ...step, after: [...names, ...step.after] })),
    ],
  };
}

function fetchNode(version: string): RecipeStep {
  const folder = `${toolsFolder}/node`;
  const fetch = [
    `npm install --no-audit --no-fund --no-save --no-package-lock --prefix ${folder} "node-linux-$(node -p process.arch)@${version}"`,
    `ln -s "node_modules/node-linux-$(node -p process.arch)/bin" ${folder}/bin`,
  ].join(' && ');
  return toolStep('node', version, [
    `case "$(node --version)" in v${version}.*) ln -s "$(dirname "$(command -v node)")" ${folder}/bin;; *) ${fetch};; esac`,
    `${folder}/bin/node --version`,
  ]);
}

function fetchManager(name: 'pnpm' | 'yarn', version: string): RecipeStep {
  const folder = `${toolsFolder}/${name}`;
  // From its second line on yarn goes by another name than the first one's, but for some versions.
  const isLater = name === 'yarn' && !/^[01](?:\.|$)/.test(version);
  const fetch = [...(isLater ? ['@yarnpkg/cli-dist'] : []), name].map(
    (source) =>
      `npm install --no-audit --no-fund --no-save --no-package-lock --prefix ${folder} "${source}@${version}"`,
  );
  return toolStep(name, version, [fetch.join(' || '), `ln -s node_modules/.bin ${folder}/bin`]);
}

function toolStep(name: keyof Tools, version: string, run: readonly string[]): RecipeStep {
  return plainStep({
    name: `tool-${name}-${version.replaceAll('.', '-').toLowerCase()}`,
    run,
    reads: [],
    writes: [`${toolsFolder}/${name}`],
    network: 'out',
  });
}
