import assert from 'node:assert/strict';
import test from 'node:test';
import { isAmong, whoInWords, whoMay } from './map-rights.ts';

const as = (role: 'reader' | 'builder' | 'releaser' | 'operator', name = 'bo') => ({
  name,
  groups: [] as string[],
  grants: [{ project: role === 'operator' ? null : 'timetable', role }],
});

test('left out, the top and holds are for releasers, what stands below for builders', () => {
  assert.deepEqual(
    [
      whoMay({}, 0, 'promote'),
      whoMay({}, 1, 'promote'),
      whoMay({}, 1, 'hold'),
      whoMay({}, 2, 'end'),
    ],
    ['releaser', 'builder', 'releaser', 'builder'],
  );
  assert.ok(isAmong('builder', as('releaser'), 'timetable'));
  assert.ok(!isAmong('releaser', as('builder'), 'timetable'));
  assert.ok(!isAmong('builder', as('releaser'), 'signage'));
});

test('the map may name people, or nobody, and then a role does not help', () => {
  const only = whoMay({ promote: ['ines', 'jonas'] }, 0, 'promote');
  assert.ok(isAmong(only, as('reader', 'jonas'), 'timetable'));
  assert.ok(!isAmong(only, as('operator', 'bo'), 'timetable'));
  assert.ok(
    !isAmong(only, { name: 'jonas', groups: [], grants: [] }, 'timetable'),
    'a name alone is no grant',
  );
  const ofGroup = { ...as('reader', 'wren'), groups: ['jonas'] };
  assert.ok(isAmong(only, ofGroup, 'timetable'), 'a group is named like a person');
  assert.ok(!isAmong(only, { ...ofGroup, grants: [] }, 'timetable'));
  assert.ok(!isAmong('nobody', as('operator'), 'timetable'));
  assert.deepEqual(
    [whoInWords(only), whoInWords('nobody'), whoInWords([]), whoInWords('releaser')],
    ['ines and jonas', 'nobody', 'nobody', 'a releaser'],
  );
});
