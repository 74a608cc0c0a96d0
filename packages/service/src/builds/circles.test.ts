import assert from 'node:assert/strict';
import test from 'node:test';
import type { Trust } from '@vaquero/core';
import type { ProjectRow } from '../projects/project-rows.ts';
import type { BuildRecord } from './build-rows.ts';
import { circleOf, sightOf } from './seen-source.ts';

const project = { repositoryId: 'r', folder: '' } as ProjectRow;
const aBuild = (ref: string, trust: Trust): BuildRecord =>
  ({ ref, trust, recipe: null }) as BuildRecord;

test('trusted builds share what they leave on a runner, an outsider’s only with its own pull request', () => {
  const trusted = [aBuild('refs/heads/main', 'trusted'), aBuild('refs/proposed/1', 'trusted')];
  const outsiders = [aBuild('refs/proposed/2', 'outsider'), aBuild('refs/proposed/3', 'outsider')];
  assert.deepEqual(trusted.map(circleOf), ['', '']);
  assert.deepEqual(outsiders.map(circleOf), ['pr-2', 'pr-3']);
  const sights = [...trusted, ...outsiders].map((build) => sightOf(project, build));
  assert.equal(sights[0], sights[1]);
  assert.equal(new Set(sights).size, 3);
});
