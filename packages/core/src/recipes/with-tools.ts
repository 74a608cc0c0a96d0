import { plainStep, type Recipe } from './recipe.ts';

/** Where pinned tools stand in a build's tree, and the programs of one of them. */
export const toolsFolder = '.tools';
export const toolPrograms = `${toolsFolder}/node/bin`;

/**
 * A plan with a step that fetches the tools it pins, before all others. It reads nothing, so it runs once
 * for each version and machine and is restored afterwards like any other. Node comes as the npm package that
 * carries its binaries, one for each processor.
 */
export function withTools(plan: Recipe): Recipe {
  const { node } = plan.tools;
  if (node === null) return plan;
  const name = `tool-node-${node}`;
  const fetch = plainStep({
    name,
    run: [
      `mkdir -p ${toolsFolder}/node`,
      `npm install --no-audit --no-fund --no-save --no-package-lock --prefix ${toolsFolder}/node "node-linux-$(node -p process.arch)@${node}"`,
      `ln -s "node_modules/node-linux-$(node -p process.arch)/bin" ${toolsFolder}/node/bin`,
      `${toolPrograms}/node --version`,
    ],
    reads: [],
    writes: [toolsFolder],
    network: 'out',
  });
  return {
    ...plan,
    steps: [fetch, ...plan.steps.map((step) => ({ ...step, after: [name, ...step.after] }))],
  };
}
