import assert from 'node:assert/strict';
import test from 'node:test';
import { usual } from '../map/maps-for-tests.ts';
import { sourceMoveInWords } from './source-move.ts';

const main = { branch: 'main', folder: '' };
const move = {
  before: main,
  after: main,
  mapBefore: usual,
  mapAfter: usual,
  isFolderThere: true,
  isCloned: true,
};

test('a change of branch and folder says what it does, and what only the map does', () => {
  assert.deepEqual(sourceMoveInWords(move), []);
  const folder = sourceMoveInWords({
    ...move,
    after: { ...main, folder: 'site' },
    isFolderThere: false,
  });
  assert.deepEqual(folder, [
    'Builds from now on are of the folder site; what is served stays until the next one.',
    'The newest commit of main has no folder site: its builds would fail until it has.',
  ]);
  const named = sourceMoveInWords({ ...move, after: { branch: 'harbour', folder: '' } });
  assert.match(named[1] ?? '', /^The map names its own trunk: .* from main as before/);
  assert.match(
    named[2] ?? '',
    /^By the map staging follows main and preview has one for each .*try\/\* or pull request into main, as before/,
  );
  assert.match(named[3] ?? '', /clones .* stands on harbour/);
  const counted = sourceMoveInWords({
    ...move,
    after: { branch: 'harbour', folder: '' },
    mapAfter: { ...usual, trunk: 'harbour' },
    isCloned: false,
  });
  assert.deepEqual(counted.slice(1, 2), ['Ahead and behind are counted from harbour.']);
  assert.equal(counted.length, 3);
});
