import { shellWord } from '../shell-word.ts';
import { below, type FolderView } from './commit-view.ts';
import { plainStep, type RecipeStep } from './recipe.ts';

/** What a generator of another language needs before it can run. */
export interface LanguagePackages {
  readonly steps: readonly RecipeStep[];
  /** A command as it finds them, from the folder it runs in. */
  readonly command: ((place: string, command: string) => string) | null;
  readonly sets: Readonly<Record<string, string>>;
  readonly because: readonly string[];
  readonly warnings: readonly string[];
}

const noPackages: LanguagePackages = {
  steps: [],
  command: null,
  sets: {},
  because: [],
  warnings: [],
};

/** What a generator of another language is installed from, where the commit says so. */
export function languagePackages(
  here: FolderView,
  folder: string,
  base: string,
  language: 'python' | 'ruby' | undefined,
): LanguagePackages {
  const near = (name: string): string | null =>
    [...new Set([base, ''])]
      .map((at) => below(at, name))
      .find((path) => here.paths.includes(path)) ?? null;
  if (language === 'python') {
    const file = near('requirements.txt') ?? near('pyproject.toml');
    return file === null ? noPackages : python(folder, file, here.configs[file] ?? '');
  }
  const lock = language === 'ruby' ? near('Gemfile.lock') : null;
  return lock === null ? noPackages : ruby(folder, lock);
}

function upTo(place: string): string {
  return place === ''
    ? ''
    : `${place
        .split('/')
        .map(() => '..')
        .join('/')}/`;
}

/** Modules of programs that are called otherwise. */
const modules: Readonly<Record<string, string>> = { 'sphinx-build': 'sphinx' };

/** A virtual environment that sees the machine's own modules too: what those satisfy is not fetched. */
function python(folder: string, file: string, text: string): LanguagePackages {
  const path = below(folder, file);
  const isList = file.endsWith('.txt');
  // What is installed from the repository itself, nobody has said.
  const isClosed = isList && !/^\s*(?:-e|--editable|\.|\/|file:)|\.whl\b|@ file:/m.test(text);
  const venv = below(folder, '.venv');
  const pip = `${shellWord(`${venv}/bin/pip`)} install --disable-pip-version-check`;
  return {
    steps: [
      plainStep({
        name: 'packages',
        run: [
          `python3 -m venv --system-site-packages ${shellWord(venv)}`,
          isList
            ? `${pip} -r ${shellWord(path)}`
            : `${pip} ${shellWord(`./${path.replace(/\/?pyproject\.toml$/, '')}`)}`,
        ],
        network: 'out',
        caches: ['~/.cache/pip'],
        // A list may name others beside it.
        ...(isClosed ? { reads: [path, ...listsBeside(path)], writes: [venv] } : {}),
      }),
    ],
    // A program of the machine's names the machine's Python in its first line: run as a module it finds both.
    command: (place, command) =>
      `. ${shellWord(`${upTo(place)}${venv}/bin/activate`)} && ${command.replace(/^[\w-]+/, (program) => `python3 -m ${modules[program] ?? program}`)}`,
    sets: {},
    because: [`${path} is there, so pip installs what it names into ${venv}`],
    warnings: [],
  };
}

function listsBeside(path: string): readonly string[] {
  const home = path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '';
  return ['requirements*.txt', 'constraints*.txt', 'requirements/**'].map((one) =>
    below(home, one),
  );
}

/** Gems of the commit's own, before those that the machine has: what these satisfy is not fetched. */
function withGems(folder: string): string {
  const gems = `"$PWD"/${shellWord(folder)}`;
  return `export GEM_HOME=${gems} GEM_PATH=${gems}:"$(ruby -e 'puts Gem.default_path.join(":")')" && `;
}

function ruby(folder: string, lock: string): LanguagePackages {
  const path = below(folder, lock);
  const home = path.replace(/\/?Gemfile\.lock$/, '');
  const gems = below(home, '.gems');
  const sets = { BUNDLE_PATH__SYSTEM: 'true', BUNDLE_FROZEN: 'true' };
  return {
    steps: [
      plainStep({
        name: 'packages',
        run: [`${withGems('.gems')}bundle install`],
        in: home === '' ? null : home,
        sets,
        network: 'out',
        reads: [below(home, 'Gemfile'), path],
        writes: [gems],
      }),
    ],
    command: (place, command) => `${withGems(`${upTo(place)}${gems}`)}bundle exec ${command}`,
    sets,
    because: [`${path} is there, so bundler installs what it names`],
    warnings: [],
  };
}
