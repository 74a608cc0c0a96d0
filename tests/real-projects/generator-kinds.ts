import { execa } from 'execa';
import { type Kind, landmark, page } from './kind.ts';

/** A project of a few files of its own, with the lock file that npm makes of them. */
const written = (
  name: string,
  site: string,
  files: Readonly<Record<string, string | object>>,
): Kind => ({
  name,
  becomes: { site },
  make: async (at) => {
    at.write(files);
    await at.lock('npm');
  },
});

/** Sites that a generator of npm writes. */
export const generatorKinds: readonly Kind[] = [
  {
    name: 'docusaurus',
    becomes: { site: 'build' },
    make: async (at) => {
      await at.template('create-docusaurus', 'templates/shared');
      await at.template('create-docusaurus', 'templates/classic');
      at.manifest((manifest) => {
        manifest.name = 'handbook';
      });
      at.change('docusaurus.config.js', /title: '[^']*',/, `title: '${landmark}',`);
      at.change('docusaurus.config.js', /url: '[^']*',/, "url: 'https://kettle.example',");
      await at.lock('npm');
    },
  },
  {
    name: 'docusaurus in website/, beside a library',
    becomes: { site: 'website/build' },
    make: async (at) => {
      at.write({ 'README.md': '# Tides\n', 'src/lib.rs': '' });
      await at.template('create-docusaurus', 'templates/shared', 'website');
      await at.template('create-docusaurus', 'templates/classic', 'website');
      at.change('website/docusaurus.config.js', /title: '[^']*',/, `title: '${landmark}',`);
      await at.lock('npm', 'website');
    },
  },
  {
    name: 'next, exported',
    becomes: { site: 'out' },
    make: async (at) => {
      await at.template('create-next-app', 'dist/templates/app-empty/js');
      at.write({
        'next.config.mjs': "export default { output: 'export' };\n",
        'app/page.js': `export default function Home() {\n  return <h1>${landmark}</h1>;\n}\n`,
        'package.json': {
          name: 'timetable',
          private: true,
          scripts: { build: 'next build' },
          dependencies: { next: '15.3.4', react: '19.1.0', 'react-dom': '19.1.0' },
        },
      });
      await at.lock('npm');
    },
  },
  written('astro', 'dist', {
    'package.json': {
      name: 'timetable',
      type: 'module',
      scripts: { build: 'astro build' },
      dependencies: { astro: '5.10.1' },
    },
    'astro.config.mjs':
      "import { defineConfig } from 'astro/config';\nexport default defineConfig({});\n",
    'src/pages/index.astro': `---\n---\n<html lang="en"><body><h1>${landmark}</h1></body></html>\n`,
  }),
  written('sveltekit, static', 'build', {
    'package.json': {
      name: 'timetable',
      private: true,
      type: 'module',
      scripts: { build: 'vite build', prepare: 'svelte-kit sync || echo' },
      devDependencies: {
        '@sveltejs/adapter-static': '3.0.8',
        '@sveltejs/kit': '2.22.2',
        '@sveltejs/vite-plugin-svelte': '5.1.0',
        svelte: '5.35.2',
        vite: '6.3.5',
      },
    },
    'svelte.config.js':
      "import adapter from '@sveltejs/adapter-static';\nexport default { kit: { adapter: adapter() } };\n",
    'vite.config.js':
      "import { sveltekit } from '@sveltejs/kit/vite';\nexport default { plugins: [sveltekit()] };\n",
    'src/app.html':
      '<!doctype html><html lang="en"><head>%sveltekit.head%</head><body>%sveltekit.body%</body></html>',
    'src/routes/+layout.js': 'export const prerender = true;\n',
    'src/routes/+page.svelte': `<h1>${landmark}</h1>\n`,
  }),
  written('nuxt, generated', '.output/public', {
    'package.json': {
      name: 'timetable',
      private: true,
      type: 'module',
      scripts: { build: 'nuxt build', generate: 'nuxt generate' },
      dependencies: { nuxt: '4.5.2', vue: '^3.5.17', 'vue-router': '*' },
    },
    '.nvmrc': '22\n',
    'nuxt.config.ts': 'export default defineNuxtConfig({ telemetry: false });\n',
    'app.vue': `<template><h1>${landmark}</h1></template>\n`,
  }),
  written('vitepress in docs/, beside a library', 'docs/.vitepress/dist', {
    'package.json': {
      name: 'tides',
      type: 'module',
      scripts: { build: 'echo the library', 'docs:build': 'vitepress build docs' },
      devDependencies: { vitepress: '1.6.3' },
    },
    'docs/.vitepress/config.mts': `export default { title: '${landmark}' };\n`,
    'docs/index.md': `# ${landmark}\n`,
  }),
  written('eleventy', '_site', {
    'package.json': {
      name: 'timetable',
      scripts: { build: 'eleventy' },
      devDependencies: { '@11ty/eleventy': '3.1.8' },
    },
    'index.md': `# ${landmark}\n`,
  }),
  {
    name: 'hexo',
    becomes: { site: 'public' },
    make: async (at) => {
      await at.template('hexo-cli', 'assets');
      at.change('_config.yml', /^title: .*$/m, `title: ${landmark}`);
      await at.lock('npm');
    },
  },
  written('parcel', 'dist', {
    'package.json': {
      name: 'timetable',
      scripts: { build: 'parcel build src/index.html' },
      devDependencies: { parcel: '2.15.4' },
    },
    'src/index.html': `<!doctype html><html lang="en"><title>Sailings</title><link rel="stylesheet" href="style.css"><h1>${landmark}</h1></html>`,
    'src/style.css': 'h1 { color: teal }\n',
  }),
  written('webpack', 'dist', {
    'package.json': {
      name: 'timetable',
      scripts: { build: 'webpack --mode production' },
      devDependencies: {
        webpack: '5.99.9',
        'webpack-cli': '6.0.1',
        'html-webpack-plugin': '5.6.3',
      },
    },
    'webpack.config.js': `const Html = require('html-webpack-plugin');\nmodule.exports = { plugins: [new Html({ title: '${landmark}' })] };\n`,
    'src/index.js': 'document.body.append("sailings");\n',
  }),
  {
    name: 'rsbuild',
    becomes: { site: 'dist' },
    make: async (at) => {
      await at.template('create-rsbuild', 'template-vanilla-js');
      at.manifest((manifest) => {
        manifest.scripts = { build: 'rsbuild build' };
      });
      at.write({ 'rsbuild.config.js': `export default { html: { title: '${landmark}' } };\n` });
      await at.lock('npm');
    },
  },
  {
    name: 'create-react-app',
    becomes: { site: 'build' },
    make: async (at) => {
      await at.template('cra-template', 'template');
      at.change('public/index.html', /<title>.*<\/title>/, `<title>${landmark}</title>`);
      at.write({
        'package.json': {
          name: 'timetable',
          private: true,
          scripts: { build: 'react-scripts build', test: 'react-scripts test' },
          dependencies: {
            'react-scripts': '5.0.1',
            react: '19.1.0',
            'react-dom': '19.1.0',
            'web-vitals': '2.1.4',
            '@testing-library/react': '16.3.0',
            '@testing-library/dom': '10.4.0',
            '@testing-library/jest-dom': '6.6.3',
          },
          browserslist: ['>0.2%'],
        },
      });
      await at.lock('npm');
    },
  },
  {
    name: 'create-vue',
    becomes: { site: 'dist' },
    make: async (at) => {
      await execa('npx', ['--yes', 'create-vue', 'made', '--default'], { cwd: at.folder });
      await execa('sh', ['-c', 'mv made/* . && rm -r made'], { cwd: at.folder });
      at.change('index.html', /<title>.*<\/title>/, `<title>${landmark}</title>`);
      await at.lock('npm');
    },
  },
  {
    name: 'angular',
    becomes: { site: 'dist/timetable/browser' },
    make: async (at) => {
      await execa(
        'npx',
        [
          '--yes',
          '@angular/cli@19',
          'new',
          'timetable',
          '--directory',
          '.',
          '--skip-install',
          '--skip-git',
          '--defaults',
          '--skip-tests',
        ],
        { cwd: at.folder, env: { NG_CLI_ANALYTICS: 'false' } },
      );
      at.change('src/index.html', /<title>.*<\/title>/, `<title>${landmark}</title>`);
      at.manifest((manifest) => {
        delete manifest.scripts?.test;
      });
      await at.lock('npm');
    },
  },
  {
    name: 'a script of one’s own',
    becomes: { site: 'public' },
    make: (at) =>
      at.write({
        'package.json': { name: 'timetable', scripts: { 'build:site': 'node write.js' } },
        'write.js': `const fs = require('fs');\nfs.mkdirSync('public', { recursive: true });\nfs.writeFileSync('public/index.html', ${JSON.stringify(page)});\n`,
      }),
  },
  {
    name: 'old output that was committed, and no build that writes it',
    becomes: { fails: /no folder looks like a site/ },
    make: (at) =>
      at.write({
        'package.json': { name: 'timetable', scripts: { build: 'echo built elsewhere' } },
        'dist/index.html': page,
      }),
  },
];
