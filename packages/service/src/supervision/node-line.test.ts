import assert from 'node:assert/strict';
import test from 'node:test';
import { sayOfNode } from './node-line.ts';

test('a line of Node.js that has ended is named, and what is not tried on', () => {
  const at = Date.parse('2026-11-28');
  assert.match(sayOfNode('20.19.2', at) ?? '', /^Node.js 20 has had no security fixes since 2026/);
  assert.equal(sayOfNode('22.23.5', at), null);
  assert.equal(sayOfNode('24.22.3', at), null);
  assert.equal(sayOfNode('20.19.2', Date.parse('2026-04-01')), null);
  assert.match(sayOfNode('25.1.0', at) ?? '', /none of those/);
});
