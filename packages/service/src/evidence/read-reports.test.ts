import assert from 'node:assert/strict';
import test from 'node:test';
import { readFacts } from './file-facts.ts';
import { readFindings } from './read-findings.ts';
import { readTests } from './read-tests.ts';

test('a report that is no report says why, and one made to harm ends soon', () => {
  const why = (text: string): string => {
    const read = readTests(text);
    return read.ok ? 'was read' : read.why;
  };
  assert.equal(why('hello'), 'it is neither JUnit XML nor TAP');
  assert.equal(why('<html></html>'), 'it has neither testsuites nor testsuite at its top');
  assert.equal(why('<!DOCTYPE a [<!ENTITY b "c">]><testsuites/>'), 'it declares entities');
  assert.notEqual(why('<testsuites><testsuite>'), 'was read');
  const begun = performance.now();
  why(`<testsuites>${'<testsuite>'.repeat(2000)}${'</testsuite>'.repeat(2000)}</testsuites>`);
  assert.ok(performance.now() - begun < 5_000);
  for (const [text, said] of [
    ['{', /^it is no JSON$/],
    ['{"version":"2.0.0","runs":[]}', /^it is no SARIF 2\.1\.0: version/],
  ] as const) {
    const read = readFindings(text);
    assert.match(read.ok ? 'was read' : read.why, said);
  }
});

test('tests of suites in suites are read, with what failed, what was skipped and how long each took', () => {
  const read = readTests(`<?xml version="1.0"?><testsuites><testsuite name="a"><testsuite name="b">
    <testcase classname="fares" name="child" time="0.5"/>
    <testcase name="adult"><error type="x">low &amp; behold</error></testcase>
    <testcase name="dog"><skipped/></testcase></testsuite></testsuite></testsuites>`);
  assert.ok(read.ok);
  const { total, failed, skipped, tookMs, failures } = read.value;
  assert.deepEqual([total, failed, skipped, tookMs], [3, 1, 1, 500]);
  assert.deepEqual(
    failures.map((one) => [one.name, one.message]),
    [['a › b › adult', 'low & behold']],
  );
});

test('TAP of groups counts tests and not their groups', () => {
  const read = readTests(`TAP version 13
# Subtest: fares
    # Subtest: a child
    ok 1 - a child
      ---
      duration_ms: 4.2
      ...
    # Subtest: an adult
    not ok 2 - an adult
      ---
      error: 'pays too much'
      location: 'test/fares.js:9:1'
      ...
    1..2
not ok 1 - fares
ok 2 - the tide # SKIP low water
1..2
`);
  assert.ok(read.ok);
  const { total, failed, skipped, failures } = read.value;
  assert.deepEqual([total, failed, skipped], [3, 1, 1]);
  assert.deepEqual(failures, [
    {
      name: 'fares › an adult',
      state: 'failed',
      tookMs: null,
      message: 'pays too much',
      place: 'test/fares.js:9:1',
    },
  ]);
});

test('what a page refers to is read as browsers read it', () => {
  const facts = readFacts(
    'page',
    Buffer.from(`<base href="/deep/"><a name=old href="a.html">x</a>
<img srcset="a.png 1x, b.png 2x" src=c.png><link rel=canonical href=elsewhere.html>
<style>@import url(print.css); .x { background: url("d.png") }</style>
<template><img src=e.png></template><p id=here style="background:url(f.png)">https://192.168.1.4/x AKIA${'A'.repeat(16)}`),
  );
  assert.deepEqual(
    facts.references.map((one) => one.to),
    ['a.html', 'c.png', 'a.png', 'b.png', 'print.css', 'd.png', 'e.png', 'f.png'],
  );
  assert.deepEqual([facts.base, facts.anchors], ['/deep/', ['old', 'here']]);
  // What is only spoken of is asked for by nobody.
  assert.deepEqual(facts.privateAddresses, []);
  assert.deepEqual(facts.keys, [{ what: 'an access key of a cloud', line: 4 }]);
  assert.equal(
    readFacts('other', Buffer.from('version https://git-lfs.github.com/spec/v1\noid x\n'))
      .isPointer,
    true,
  );
});
