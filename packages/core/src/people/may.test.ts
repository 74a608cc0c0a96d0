import assert from 'node:assert/strict';
import test from 'node:test';
import { abilities, leastRoleFor, may, roles } from './may.ts';

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
