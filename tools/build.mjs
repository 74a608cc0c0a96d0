// Bundles each program to one file below dist/ and builds the console; skips what has not changed.
import { cpSync, existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { hashOf, isDone, noteDone, root, run, sources } from './prepare.mjs';

const bundles = {
  'vaquero-service': 'packages/service/src/main.ts',
  api: 'packages/service/src/api-main.ts',
  runner: 'packages/runner/src/main.ts',
  'reading-worker': 'packages/service/src/evidence/reading-worker.ts',
  'store-worker': 'packages/runner/src/artifacts/store-worker.ts',
  edge: 'packages/edge/src/main.ts',
  'copy-thread': 'packages/edge/src/routing/copy-thread.ts',
  vaquero: 'packages/cli/src/main.ts',
  demo: 'demo/demo.ts',
};

/** Names of third parties in every package: they stay outside, our own packages go inside. */
export function thirdParties() {
  const names = ['service', 'runner', 'edge', 'cli', 'contracts', 'core'].flatMap((name) =>
    Object.keys(
      JSON.parse(readFileSync(join(root, 'packages', name, 'package.json'), 'utf8')).dependencies ??
        {},
    ),
  );
  return [...new Set(names)].filter((name) => !name.startsWith('@vaquero/'));
}

/** Builds what is out of date. */
export async function build() {
  const programs = hashOf(
    sources(
      'packages/core',
      'packages/contracts',
      'packages/service',
      'packages/runner',
      'packages/edge',
      'packages/cli',
      'demo',
      'tools/build.mjs',
    ),
  );
  if (!isDone('programs', programs) || !existsSync(join(root, 'dist/api.mjs'))) {
    const { build: bundle } = await import('esbuild');
    const begun = Date.now();
    await bundle({
      entryPoints: Object.fromEntries(
        Object.entries(bundles).map(([name, path]) => [name, join(root, path)]),
      ),
      outdir: join(root, 'dist'),
      outExtension: { '.js': '.mjs' },
      bundle: true,
      platform: 'node',
      format: 'esm',
      target: 'node20',
      external: thirdParties().flatMap((name) => [name, `${name}/*`]),
      sourcemap: 'linked',
      logLevel: 'error',
    });
    cpSync(join(root, 'packages/service/migrations'), join(root, 'dist/migrations'), {
      recursive: true,
    });
    process.stderr.write(`  programs bundled: ${((Date.now() - begun) / 1000).toFixed(1)} s\n`);
    noteDone('programs', programs);
  }
  const console_ = hashOf(sources('packages/console', 'packages/core', 'packages/contracts'));
  if (!isDone('console', console_) || !existsSync(join(root, 'dist/console/index.html'))) {
    await run(
      'building the console',
      join(root, 'node_modules/.bin/vite'),
      ['build', '--logLevel', 'error'],
      { cwd: join(root, 'packages/console') },
    );
    noteDone('console', console_);
  }
}

if (process.argv[1] === import.meta.filename) await build();
