import assert from 'node:assert/strict';
import test from 'node:test';
import { callFilter } from './call-filter.ts';
import { type Processor, refusedArguments, refusedCalls } from './refused-calls.ts';

interface Asked {
  readonly processor?: number;
  readonly number: number;
  readonly args?: readonly number[];
}

/** Runs a filter as the kernel does: the second way to say what each instruction means. */
function ask(program: Uint8Array, { processor = 0, number, args = [] }: Asked): number {
  const words = new Map([
    [0, number],
    [4, processor],
    ...args.map((one, n): [number, number] => [16 + n * 8, one]),
  ]);
  const view = new DataView(program.buffer);
  let held = 0;
  for (let at = 0; at < program.length / 8; at += 1) {
    const [code, yes, no, value] = [
      view.getUint16(at * 8, true),
      view.getUint8(at * 8 + 2),
      view.getUint8(at * 8 + 3),
      view.getUint32(at * 8 + 4, true),
    ];
    if (code === 0x06) return value;
    if (code === 0x20) held = words.get(value) ?? 0;
    else {
      const holds =
        code === 0x15 ? held === value : code === 0x35 ? held >= value : (held & value) !== 0;
      at += holds ? yes : no;
    }
  }
  throw new Error('the filter has no end');
}

const architectures: readonly (readonly [Processor, number])[] = [
  ['x64', 0xc000003e],
  ['arm64', 0xc00000b7],
];
const allow = 0x7fff0000;
const kill = 0x80000000;

for (const [name, processor] of architectures) {
  const program = callFilter(name);
  const answers = (number: number, ...args: number[]) => ask(program, { processor, number, args });

  test(`each call of the list is refused as it says, on ${name}`, () => {
    for (const call of refusedCalls) {
      const number = call[name];
      if (number === null) continue;
      assert.equal(answers(number), 0x50000 + (call.answer === 'EPERM' ? 1 : 38), call.name);
    }
    // read, write, close, execve and futex.
    for (const number of name === 'x64' ? [0, 1, 3, 59, 202] : [63, 64, 57, 221, 98])
      assert.equal(answers(number), allow);
  });

  test(`arguments decide where they must, on ${name}`, () => {
    const numberOf = (call: string): number =>
      refusedArguments.find((one) => one.name === call)?.[name] ?? -1;
    const refused = 0x50001;
    for (const family of [1, 2, 10, 16]) assert.equal(answers(numberOf('socket'), family), allow);
    for (const family of [0, 3, 9, 15, 17, 38, 40, 44])
      assert.equal(answers(numberOf('socket'), family), refused);
    assert.equal(answers(numberOf('socketpair'), 1), allow);
    assert.equal(answers(numberOf('socketpair'), 30), refused);
    assert.equal(answers(numberOf('ioctl'), 1, 0x5401), allow);
    assert.equal(answers(numberOf('ioctl'), 1, 0x5412), refused);
    assert.equal(answers(numberOf('ioctl'), 1, 0x541c), refused);
    // A thread, and a new user namespace.
    assert.equal(answers(numberOf('clone'), 0x3d0f00), allow);
    assert.equal(answers(numberOf('clone'), 0x10000011), refused);
    assert.equal(answers(numberOf('unshare'), 0x400), allow);
    assert.equal(answers(numberOf('unshare'), 0x20000), refused);
  });

  test(`calls of other architectures end the process, on ${name}`, () => {
    assert.equal(ask(program, { processor: 0x40000003, number: 1 }), kill);
    assert.equal(answers(0x40000000 + 16), name === 'x64' ? kill : allow);
  });
}

test('every refusal has its reason, and no call stands there twice', () => {
  for (const { name, why } of [...refusedCalls, ...refusedArguments])
    assert.ok(why.length > 7, name);
  for (const [name] of architectures) {
    const numbers = refusedCalls.flatMap((call) => call[name] ?? []);
    assert.equal(new Set(numbers).size, numbers.length);
  }
});
