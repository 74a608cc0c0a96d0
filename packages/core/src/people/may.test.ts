import assert from 'node:assert/strict';
import test from 'node:test';
import { acceptsFrom, destinationOf, mapOne } from '../map/map-one.ts';
import type { RefName } from '../refs/ref-name.ts';
import { abilities, abilityToChange, leastRoleFor, may, roles } from './may.ts';

test('each role holds what the ones before it hold, in its own project only', () => {
  for (const [place, role] of roles.entries()) {
    for (const ability of abilities) {
      const needed = roles.indexOf(leastRoleFor[ability]);
      assert.equal(
        may([{ project: 'timetable', role }], ability, 'timetable'),
        place >= needed,
        `${role} ${ability}`,
      );
      assert.equal(may([{ project: 'timetable', role }], ability, 'ticket-desk'), false);
      assert.equal(may([{ project: null, role }], ability, 'ticket-desk'), place >= needed);
    }
  }
  assert.equal(may([], 'read', 'timetable'), false);
});

test('production asks for a releaser, any other environment for a builder', () => {
  assert.equal(leastRoleFor[abilityToChange('production')], 'releaser');
  assert.equal(leastRoleFor[abilityToChange('staging')], 'builder');
});

test('the first map: a push to the trunk goes to staging, and it says why nothing else goes anywhere', () => {
  const map = mapOne('main');
  assert.deepEqual(destinationOf(map, 'refs/heads/main' as RefName), {
    environments: ['staging'],
    why: 'staging follows main',
  });
  assert.deepEqual(destinationOf(map, 'refs/heads/try/a' as RefName), {
    environments: [],
    why: 'no environment wants try/a: staging follows main',
  });
  assert.equal(acceptsFrom(map, 'production'), 'staging');
  assert.equal(acceptsFrom(map, 'staging'), null);
});
