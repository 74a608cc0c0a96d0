import { execa } from 'execa';
import { type Kind, landmark } from './kind.ts';

/** Sites of generators of other languages, as Debian has them. */
export const debianKinds: readonly Kind[] = [
  {
    name: 'hugo',
    becomes: { site: 'public' },
    debian: ['hugo'],
    make: (at) =>
      at.write({
        'config.toml':
          'baseURL = "/"\ntitle = "Sailings"\ndisableKinds = ["RSS", "sitemap", "taxonomy", "term"]\n',
        'content/_index.md': `${landmark}\n`,
        'layouts/index.html': '<!doctype html><html lang="en">{{ .Content }}</html>',
      }),
  },
  {
    name: 'mkdocs',
    becomes: { site: 'site' },
    debian: ['mkdocs'],
    make: (at) =>
      at.write({ 'mkdocs.yml': 'site_name: Sailings\n', 'docs/index.md': `# ${landmark}\n` }),
  },
  {
    name: 'sphinx in a folder, behind requirements.txt',
    becomes: { site: 'handbook/_build/html' },
    debian: ['python3-sphinx', 'python3-venv', 'python3-pip'],
    make: (at) =>
      at.write({
        'handbook/conf.py': "project = 'Sailings'\n",
        'handbook/requirements.txt': 'sphinx\n',
        'handbook/index.rst': `${landmark}\n${'='.repeat(landmark.length)}\n\nAll sailings.\n`,
      }),
  },
  {
    name: 'pelican, with a module of the repository’s own',
    becomes: { site: 'output' },
    debian: ['pelican', 'python3-venv', 'python3-pip', 'python3-setuptools', 'python3-wheel'],
    make: async (at) => {
      at.write({
        'words/setup.py':
          "from setuptools import setup\nsetup(name='words', version='1.0', py_modules=['words'])\n",
        'words/words.py': `next = '${landmark}'\n`,
      });
      await execa('/usr/bin/python3', ['setup.py', '-q', 'bdist_wheel', '-d', '../wheels'], {
        cwd: `${at.folder}/words`,
      });
      at.write({
        words: null,
        'requirements.txt': './wheels/words-1.0-py3-none-any.whl\n',
        'pelicanconf.py':
          "from words import next\nSITENAME = next\nAUTHOR = 'Wren'\nTIMEZONE = 'UTC'\nDEFAULT_LANG = 'en'\nPATH = 'content'\n",
        'content/first.md': 'Title: Sailings\nDate: 2026-11-01\n\nAll sailings.\n',
      });
    },
  },
  {
    name: 'sphinx',
    becomes: { site: 'docs/_build/html' },
    debian: ['python3-sphinx'],
    make: (at) =>
      at.write({
        'docs/conf.py': "project = 'Sailings'\n",
        'docs/index.rst': `${landmark}\n${'='.repeat(landmark.length)}\n\nAll sailings.\n`,
      }),
  },
  {
    name: 'pelican',
    becomes: { site: 'output' },
    debian: ['pelican'],
    make: (at) =>
      at.write({
        'pelicanconf.py': `SITENAME = '${landmark}'\nAUTHOR = 'Wren'\nTIMEZONE = 'UTC'\nDEFAULT_LANG = 'en'\nPATH = 'content'\n`,
        'content/first.md': 'Title: Sailings\nDate: 2026-11-01\n\nAll sailings.\n',
      }),
  },
  {
    name: 'jekyll',
    becomes: { site: '_site' },
    debian: ['jekyll'],
    make: (at) =>
      at.write({
        '_config.yml': 'title: Sailings\n',
        'index.md': `---\n---\n# ${landmark}\n`,
      }),
  },
  {
    name: 'jekyll, behind Gemfile.lock',
    becomes: { site: '_site' },
    debian: ['jekyll', 'ruby-bundler'],
    make: async (at) => {
      at.write({
        Gemfile: 'source "https://rubygems.org"\ngem "jekyll"\n',
        '_config.yml': 'title: Sailings\n',
        'index.md': `---\n---\n# ${landmark}\n`,
      });
      await execa('bundle', ['lock', '--local'], { cwd: at.folder });
    },
  },
];
