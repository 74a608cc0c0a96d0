// Bundles the tests, so that each of their processes loads a few files and not some hundred sources.
import { readFileSync, rmSync } from 'node:fs';
import { readdir, readFile } from 'node:fs/promises';
import { dirname, join, relative } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';
import { thirdParties } from './build.mjs';
import { root } from './prepare.mjs';

const prefix = 'test-';

/** A test knows where it stands by its source, not by its bundle; the code under test lies where it is run from. */
const whereTestsStand = {
  name: 'where-tests-stand',
  setup({ onLoad }) {
    onLoad({ filter: /(?:\/tests\/.*|\.test)\.ts$/ }, async ({ path }) => {
      const text = await readFile(path, 'utf8');
      return {
        loader: 'ts',
        contents: text
          .replaceAll('import.meta.url', JSON.stringify(pathToFileURL(path).href))
          .replaceAll('import.meta.dirname', JSON.stringify(dirname(path))),
      };
    });
  },
};

/** Bundles test files, given from the root; returns where each bundle lies. */
export async function bundleTests(files) {
  const dist = join(root, 'dist');
  for (const name of await readdir(dist))
    if (name.startsWith(prefix)) rmSync(join(dist, name), { recursive: true });
  const { devDependencies } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8'));
  const outside = [...thirdParties(), ...Object.keys(devDependencies)];
  // They are run in the order of their names: stories first, so that what is short fills the gaps between the ends of what is long.
  const nameOf = (file) =>
    prefix +
    (file.startsWith('tests/') ? 'story-' : 'unit-') +
    relative(root, join(root, file))
      .replace(/[^a-z0-9]+/gi, '-')
      .replace(/-test-ts$/, '');
  await build({
    absWorkingDir: root,
    entryPoints: Object.fromEntries(files.map((file) => [nameOf(file), join(root, file)])),
    // Beside the programs, where the code under test finds its threads.
    outdir: dist,
    outExtension: { '.js': '.mjs' },
    chunkNames: `${prefix}chunk-[hash]`,
    bundle: true,
    splitting: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    external: outside.flatMap((name) => [name, `${name}/*`]),
    plugins: [whereTestsStand],
    sourcemap: 'linked',
    logLevel: 'error',
  });
  return files.map((file) => join(dist, `${nameOf(file)}.mjs`));
}
