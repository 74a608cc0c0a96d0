import assert from 'node:assert/strict';
import test from 'node:test';
import fc from 'fast-check';
import { abilities, type Grant, may, projectRoles, roles } from './may.ts';
import { actingGrants, narrowed, type Scope } from './scope.ts';

const project = fc.constantFrom('j1', 'j2');
const grants = fc.array(
  fc.record({ project: fc.option(project, { nil: null }), role: fc.constantFrom(...roles) }),
  { maxLength: 4 },
) as fc.Arbitrary<readonly Grant[]>;
const scope: fc.Arbitrary<Scope> = fc.record({
  projects: fc.uniqueArray(project),
  role: fc.constantFrom(...projectRoles),
  environments: fc.option(fc.uniqueArray(fc.constantFrom('staging', 'preview')), { nil: null }),
});

test('a narrowed token may nothing that its person may not, nothing elsewhere, and nothing of the installation', () => {
  fc.assert(
    fc.property(
      grants,
      scope,
      project,
      fc.constantFrom(...abilities),
      (own, to, where, ability) => {
        const left = narrowed(own, to);
        assert.ok(!may(left, 'operate', null));
        if (may(left, ability, where)) {
          assert.ok(may(own, ability, where) && to.projects.includes(where));
          if (to.environments !== null) assert.equal(ability, 'read');
        }
        const acting = actingGrants(own, to, where, { name: 'pr-2', rule: 'preview' });
        if (acting.length > 0) {
          assert.ok(to.role !== 'reader' && to.projects.includes(where));
          assert.ok(to.environments === null || to.environments.includes('preview'));
          for (const { role } of acting) assert.ok(may(own, 'read', where) && role !== 'operator');
        }
      },
    ),
  );
});

test('a family reaches its members, and an environment only itself', () => {
  const own: readonly Grant[] = [{ project: null, role: 'operator' }];
  const acts = (environments: string[] | null, role: Scope['role'] = 'releaser') =>
    actingGrants(own, { projects: ['j1'], role, environments }, 'j1', {
      name: 'pr-2',
      rule: 'preview',
    }).map((grant) => grant.role);
  assert.deepEqual(
    [acts(null), acts(['preview']), acts(['pr-2']), acts(['staging']), acts(null, 'reader')],
    [['releaser'], ['releaser'], ['releaser'], [], []],
  );
  assert.deepEqual(narrowed(own, { projects: ['j1'], role: 'builder', environments: null }), [
    { project: 'j1', role: 'builder' },
  ]);
});
