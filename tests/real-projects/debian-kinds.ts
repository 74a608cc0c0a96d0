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
    name: 'mkdocs in a folder, behind requirements.txt',
    becomes: { site: 'handbook/site' },
    debian: ['mkdocs', 'python3-venv', 'python3-pip'],
    make: (at) =>
      at.write({
        'handbook/mkdocs.yml': 'site_name: Sailings\n',
        'handbook/requirements.txt': 'mkdocs\n',
        'handbook/docs/index.md': `# ${landmark}\n`,
      }),
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
];
