// Bundles each program to one file below dist/ and builds the console; skips what has not changed.
import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
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
  demo: 'demo/demo.ts',
};

/** Bundles lie beside no package: what they leave outside has to lie at the root, in the version that was asked for. */
function requireAtRoot(wanted) {
  for (const [name, version] of Object.entries(wanted)) {
    if (name.startsWith('@vaquero/')) continue;
    const path = join(root, 'node_modules', name, 'package.json');
    const found = existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')).version : 'none';
    if (found !== version)
      throw new Error(
        `${name} ${version} is wanted in node_modules/ at the root, where ${found} lies.`,
      );
  }
}

/** Names of third parties in every package: they stay outside, our own packages go inside. */
export function thirdParties() {
  const names = ['service', 'runner', 'edge', 'cli', 'contracts', 'core'].flatMap((name) => {
    const path = join(root, 'packages', name, 'package.json');
    const { dependencies = {}, devDependencies = {} } = JSON.parse(readFileSync(path, 'utf8'));
    // The client is packed with all that it needs inside, so there they are needed only to build it.
    const wanted = name === 'cli' ? devDependencies : dependencies;
    requireAtRoot(wanted);
    return Object.keys(wanted);
  });
  return [...new Set(names)].filter((name) => !name.startsWith('@vaquero/'));
}

/** The folder of the client as it is packed: everything inside, so that it needs nothing beside Node. */
export const client = join(root, 'packages/cli/dist');

/** A text of HTML as it is read. */
function unescaped(text) {
  const letters = { quot: '"', lt: '<', gt: '>', '#39': "'", amp: '&' };
  return text.replace(/&(quot|lt|gt|#39|amp);/g, (_, name) => letters[name]);
}

/** What pictures pages behind the walls: in one file, since nothing of the checkout is seen there but what drives the browser. */
async function buildPictureHelper(bundle) {
  await bundle({
    entryPoints: { 'picture-helper': join(root, 'packages/runner/src/pictures/picture-helper.ts') },
    outdir: join(root, 'dist/picture-helper'),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    external: ['playwright-core'],
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
    },
    logLevel: 'error',
  });
}

async function buildClient(bundle) {
  rmSync(client, { recursive: true, force: true });
  const { metafile } = await bundle({
    entryPoints: { vaquero: join(root, 'packages/cli/src/main.ts') },
    outdir: client,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    splitting: true,
    minify: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // Packages of the older kind ask for Node's own modules by require.
    banner: {
      js: "#!/usr/bin/env node\nimport { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
    },
    metafile: true,
    logLevel: 'error',
  });
  writeFileSync(join(client, 'THIRD-PARTY.txt'), licencesOf(metafile.inputs));
  const manual = execFileSync(process.execPath, [join(client, 'vaquero.mjs'), 'manual']);
  const page = execFileSync(
    process.execPath,
    [join(root, 'node_modules/.bin/marked-man'), '--manual', 'Vaquero'],
    { input: manual, env: { ...process.env, SOURCE_DATE_EPOCH: '0' } },
  );
  // Its converter leaves what stands in code as HTML has it.
  writeFileSync(join(client, 'vaquero.1'), unescaped(page.toString()));
  cpSync(join(root, 'LICENSE'), join(root, 'packages/cli/LICENSE'));
}

/** The licences of what went into a bundle, as they ask to be handed on. */
function licencesOf(inputs) {
  const homes = Object.keys(inputs).flatMap(
    (path) => /^.*node_modules\/(?:@[^/]+\/)?[^/]+(?=\/)/.exec(path) ?? [],
  );
  return [...new Set(homes)]
    .map((home) => {
      const { name, version, license } = JSON.parse(
        readFileSync(join(root, home, 'package.json'), 'utf8'),
      );
      const file = readdirSync(join(root, home)).find((each) => /^licen[cs]e/i.test(each));
      const text = file === undefined ? '' : readFileSync(join(root, home, file), 'utf8').trim();
      return `${name} ${version}: ${license}\n\n${text}\n`;
    })
    .join('\n');
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
  if (
    !isDone('programs', programs) ||
    !existsSync(join(root, 'dist/api.mjs')) ||
    !existsSync(join(root, 'dist/picture-helper/picture-helper.mjs')) ||
    !existsSync(join(client, 'vaquero.mjs'))
  ) {
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
    await buildPictureHelper(bundle);
    await buildClient(bundle);
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
