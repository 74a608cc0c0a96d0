import {
  type Processor,
  type RefusedArgument,
  type RefusedCall,
  refusedArguments,
  refusedCalls,
} from './refused-calls.ts';

/** One instruction of the kernel's filter language. Source: linux/filter.h. */
interface Instruction {
  readonly code: number;
  /** How many instructions are skipped when a comparison holds, and when it does not. */
  readonly yes: number;
  readonly no: number;
  readonly value: number;
}

/** BPF_LD|BPF_W|BPF_ABS, BPF_JMP|BPF_JEQ|BPF_K, BPF_JGE, BPF_JSET, BPF_RET|BPF_K. */
const codes = { load: 0x20, equal: 0x15, atLeast: 0x35, anyBit: 0x45, answer: 0x06 } as const;
/** SECCOMP_RET_ALLOW, _ERRNO and _KILL_PROCESS. Source: linux/seccomp.h. */
const answers = { allow: 0x7fff_0000, error: 0x0005_0000, kill: 0x8000_0000 } as const;
const errors = { EPERM: 1, ENOSYS: 38 } as const;
/** AUDIT_ARCH_X86_64 and AUDIT_ARCH_AARCH64. Source: linux/audit.h. */
const architectures: Readonly<Record<Processor, number>> = { x64: 0xc000_003e, arm64: 0xc000_00b7 };
/** Calls of the x32 kind bear this bit: they come in past numbers that are compared. */
const x32 = 0x4000_0000;
/** Where a call's number, its architecture and its arguments stand. Source: struct seccomp_data. */
const offsets = { number: 0, architecture: 4, arguments: 16 } as const;

const load = (value: number): Instruction => ({ code: codes.load, yes: 0, no: 0, value });
const answer = (value: number): Instruction => ({ code: codes.answer, yes: 0, no: 0, value });
const refuseWith = (error: keyof typeof errors): Instruction =>
  answer(answers.error + errors[error]);
const test = (code: number, value: number, yes: number, no: number): Instruction => ({
  code,
  yes,
  no,
  value,
});

/**
 * The filter of a build's system calls for a processor, as the kernel takes it: what is listed is refused, calls of
 * other architectures end the process, the rest passes. Shape: eight bytes an instruction, little-endian.
 * Source: seccomp(2), the kernel's Documentation/userspace-api/seccomp_filter.rst.
 */
export function callFilter(processor: Processor): Uint8Array {
  const program: readonly Instruction[] = [
    load(offsets.architecture),
    test(codes.equal, architectures[processor], 1, 0),
    answer(answers.kill),
    load(offsets.number),
    ...(processor === 'x64' ? [test(codes.atLeast, x32, 0, 1), answer(answers.kill)] : []),
    ...refusedCalls.flatMap((call) => refusing(call, processor)),
    ...refusedArguments.flatMap((call) => refusingArgument(call, processor)),
    answer(answers.allow),
  ];
  const bytes = new Uint8Array(program.length * 8);
  const view = new DataView(bytes.buffer);
  for (const [place, { code, yes, no, value }] of program.entries()) {
    view.setUint16(place * 8, code, true);
    view.setUint8(place * 8 + 2, yes);
    view.setUint8(place * 8 + 3, no);
    view.setUint32(place * 8 + 4, value, true);
  }
  return bytes;
}

function refusing(call: RefusedCall, processor: Processor): readonly Instruction[] {
  const number = call[processor];
  return number === null ? [] : [test(codes.equal, number, 0, 1), refuseWith(call.answer)];
}

/** Behind it the call's number is loaded again, for what comes after. */
function refusingArgument(call: RefusedArgument, processor: Processor): readonly Instruction[] {
  const { rule } = call;
  const values = rule.kind === 'any-of' ? [rule.mask] : rule.values;
  const code = rule.kind === 'any-of' ? codes.anyBit : codes.equal;
  const isAllowed = rule.kind === 'not-in';
  const compared = values.map((value, place) => {
    const left = values.length - 1 - place;
    // Found: past the other comparisons, to the refusal or past it. Not found: the next one, and behind the last the other way.
    return test(code, value, left + (isAllowed ? 1 : 0), left > 0 || isAllowed ? 0 : 1);
  });
  const body = [
    load(offsets.arguments + call.argument * 8),
    ...compared,
    refuseWith('EPERM'),
    load(offsets.number),
  ];
  return [test(codes.equal, call[processor], 0, body.length), ...body];
}
