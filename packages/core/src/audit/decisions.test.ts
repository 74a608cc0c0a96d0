import assert from 'node:assert/strict';
import test from 'node:test';
import { kindsThat, traits, traitsOf } from './decisions.ts';

test('what edges answer changes by moves, by what was stored, by what was made or ended, and by nothing else', () => {
  assert.deepEqual(kindsThat('routing'), [
    'artifact.stored',
    'build.passed',
    'environment.automatic',
    'environment.promoted',
    'environment.let-in',
    'environment.rolled-back',
    'environment.made',
    'environment.revived',
    'environment.ended',
    'environment.link-lent',
    'environment.link-closed',
    'map.set',
    'project.made',
    'project.ended',
    'project.renamed',
  ]);
  // Each kind that may leave a build to begin says so: runners wait for nothing else.
  for (const kind of kindsThat('queues')) assert.equal(traits[kind].queues, true);
});

test('a kind that another version wrote has no traits, whatever it is called', () => {
  for (const kind of ['environment.probed', 'constructor', '__proto__', ''])
    assert.deepEqual(traitsOf(kind), { shows: null, routing: false, queues: false });
  assert.equal(traitsOf('build.passed').shows, 'build');
});
