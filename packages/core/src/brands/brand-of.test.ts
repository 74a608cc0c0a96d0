import assert from 'node:assert/strict';
import test from 'node:test';
import type { Digest } from '../digest.ts';
import { brandOf, brandPaths } from './brand-of.ts';

const digits = [...'0123456789abcdef'];

test('different brands have different names and different marks', () => {
  const all = digits.flatMap((a) =>
    digits.flatMap((b) => digits.map((c) => brandOf(`${a}${b}${c}${'0'.repeat(61)}` as Digest))),
  );
  assert.equal(new Set(all.map((brand) => brand.name)).size, 2048);
  const shapes = new Set(all.map((brand) => JSON.stringify(brandPaths(brand))));
  assert.equal(shapes.size, 256);
});

test('a brand is said as hue, head and foot', () => {
  assert.equal(brandOf(`e5b${'0'.repeat(61)}` as Digest).name, 'blue eave on vee');
});

test('marks stay on their grid of 16 and are drawn with short figures', () => {
  for (const a of digits) {
    for (const b of digits) {
      const { stroked, filled } = brandPaths(brandOf(`${a}${b}0${'0'.repeat(61)}` as Digest));
      assert.doesNotMatch(stroked + filled, /\d\.\d{3,}|NaN|undefined/);
      for (const [, x] of (stroked + filled).matchAll(/M(-?[\d.]+) /g))
        assert.ok(Number(x) >= 0 && Number(x) <= 16);
    }
  }
});
