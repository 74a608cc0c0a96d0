import assert from 'node:assert/strict';
import test from 'node:test';
import { pushedRefFault } from './pushed-ref.ts';

test('branches and tags are taken, and nothing that only looks like one', () => {
  for (const good of [
    'refs/heads/main',
    'refs/heads/try/a-b',
    'refs/tags/v1.0',
    'refs/heads/ä',
    'refs/heads/HEADS',
  ])
    assert.equal(pushedRefFault(good), null, good);
  const reasons = {
    'refs/replace/0123': 'only branches and tags',
    'refs/notes/commits': 'only branches and tags',
    'refs/proposed/1': 'only branches and tags',
    'refs/vaquero/kept/x': 'only branches and tags',
    'refs/heads': 'only branches and tags',
    HEAD: 'only branches and tags',
    'refs/heads/refs/heads/main': 'refs/ twice',
    'refs/heads/HEAD': 'own word',
    'refs/tags/FETCH_HEAD': 'own word',
    'refs/heads/@': 'own word',
    'refs/heads/-x': 'option',
    [`refs/heads/${'a'.repeat(40)}`]: 'commit id',
    [`refs/tags/${'AB'.repeat(32)}`]: 'commit id',
    'refs/heads/a..b': 'no name',
    'refs/heads/a\u009b2J': 'no name',
    'refs/heads/a\nb': 'no name',
  };
  for (const [bad, why] of Object.entries(reasons))
    assert.match(pushedRefFault(bad) ?? '', new RegExp(why), bad);
});
