import { type BuildReply, type BuildRow, findingsOf } from '@vaquero/contracts';
import { authorInWords, counted, isOpen, nameOfRef, siblingInWords } from '@vaquero/core';
import type { Io } from '../io.ts';
import { bytes, lasting, safe, spoken, tone, when } from '../output.ts';

/** A state's word in its colour. */
export function stateOf(io: Io, state: BuildRow['state']): string {
  return tone(
    io,
    state === 'passed' || state === 'reused'
      ? 'good'
      : state === 'failed'
        ? 'bad'
        : state === 'running'
          ? 'thread'
          : 'quiet',
    state,
  );
}

/** The lines that say what a build is and, when it failed, why and what to do. */
export function describe(io: Io, build: BuildReply): readonly string[] {
  const took =
    build.startedAt === null || build.endedAt === null
      ? ''
      : ` after ${lasting(build.endedAt - build.startedAt)}`;
  const lines = [
    `Build ${build.number} ${stateOf(io, build.state)}${build.marks.map((mark) => tone(io, 'warn', `, ${mark}`)).join('')}${took}: ${safe(build.commit.subject)}`,
    `commit     ${build.commit.id.slice(0, 12)} by ${safe(authorInWords(build.commit))}, ${build.cause}`,
    ...(build.pullRequest === null ? [] : [`proposed   ${proposedInWords(build.pullRequest)}`]),
    `goes to    ${build.destination}`,
  ];
  lines.push(...why(io, build));
  if (build.place !== null) lines.push(`queue      ${placeInWords(build.place)}`);
  if (build.usual !== null && isOpen(build.state))
    lines.push(
      `usually    ${lasting(build.usual.medianMs)}; the last ${build.usual.of} took ${lasting(build.usual.shortMs)} to ${lasting(build.usual.longMs)}`,
    );
  for (const other of build.siblings)
    lines.push(
      `beside it  ${siblingInWords(other)}: build ${other.number} ${stateOf(io, other.state)}`,
    );
  if (build.overtakenBy !== null)
    lines.push(`overtaken  by build ${build.overtakenBy}, of a newer commit`);
  if (build.reusedFrom !== null)
    lines.push(
      `reused     the ${build.artifact === null ? 'evidence' : 'artifact'} of build ${build.reusedFrom}: every input is the same`,
    );
  return [
    ...lines,
    ...build.steps.map((step) => stepLine(io, step)),
    ...evidenceLines(io, build.evidence),
    ...whatItMade(build),
  ];
}

function proposedInWords({ name, into, outsider }: NonNullable<BuildRow['pullRequest']>): string {
  const whose = outsider ? ', code of an outsider: no values, caches or results of others' : '';
  return `${name}, to be merged into ${safe(into)}${whose}`;
}

function placeInWords({ ahead, startsAt, lacks }: NonNullable<BuildReply['place']>): string {
  if (lacks.length > 0)
    return `waits for a runner labelled ${lacks.join(', ')}; none takes builds now`;
  const begins =
    startsAt === null ? 'when it begins is not known' : `begins about ${when(startsAt).slice(11)}`;
  return `${ahead} ahead; ${begins}`;
}

const tones: Partial<Record<BuildReply['steps'][number]['state'], 'bad' | 'warn'>> = {
  failed: 'bad',
  warned: 'warn',
  flaky: 'warn',
};

/** One step: how long it took, how it ended, and what it ran or whose result it took over. */
function stepLine(io: Io, step: BuildReply['steps'][number]): string {
  const time =
    step.reused !== null
      ? ''
      : step.startedAt === null
        ? step.expected === null
          ? ''
          : `~${lasting(step.expected.endsAt - step.expected.startsAt)}`
        : lasting((step.endedAt ?? Date.now()) - step.startedAt);
  const says =
    step.reused !== null
      ? `from build ${step.reused.build}, ${lasting(step.reused.tookMs)} saved`
      : step.tries > 1
        ? `${safe(step.says)}   (try ${step.tries})`
        : safe(step.says);
  return `${step.name.padEnd(10)} ${time.padStart(8)}   ${tone(io, tones[step.state] ?? 'quiet', step.state.padEnd(8))}  ${says}`;
}

function evidenceLines(io: Io, evidence: BuildReply['evidence']): readonly string[] {
  const tests = evidence.tests.flatMap((report) => [
    `tests      ${report.step}: ${report.total - report.failed - report.skipped} of ${report.total} passed${report.skipped > 0 ? `, ${report.skipped} skipped` : ''}, ${lasting(report.tookMs)} (${safe(report.path)})`,
    ...report.failures
      .slice(0, 5)
      .map((one) =>
        tone(
          io,
          'bad',
          `           ${safe(one.name)}: ${safe(one.message ?? 'failed')}${one.place === null ? '' : ` at ${safe(one.place)}`}`,
        ),
      ),
  ]);
  const flaky = evidence.flaky
    .slice(0, 5)
    .map((one) =>
      tone(io, 'warn', `flaky      ${safe(one.name)}: failed ${one.failed} of ${one.of} runs`),
    );
  const differs = evidence.differences.map((one) =>
    tone(
      io,
      'warn',
      `differs    ${one.step}: same inputs, other bytes in ${one.files.slice(0, 5).map(safe).join(', ')}`,
    ),
  );
  const findings = findingsOf(evidence);
  const found = findings
    .slice(0, 10)
    .map((one) =>
      tone(
        io,
        one.severity === 'error' ? 'bad' : one.severity === 'warning' ? 'warn' : 'quiet',
        `${one.severity.padEnd(10)} ${safe(one.path)}${one.line === null ? '' : `:${one.line}`} ${safe(one.message)}`,
      ),
    );
  const more = findings.length > 10 ? [`           and ${findings.length - 10} more findings`] : [];
  return [...tests, ...flaky, ...differs, ...found, ...more];
}

function why(
  io: Io,
  { failure, tellingLine, lastGood, explanation }: BuildReply,
): readonly string[] {
  if (failure === null) return [];
  const telling =
    tellingLine === null
      ? []
      : [`line ${String(tellingLine.number).padEnd(6)}${safe(tellingLine.text)}`];
  const changed = (lastGood?.changed ?? [])
    .slice(0, 8)
    .map(
      (file) =>
        `changed    ${safe(file.path)} +${file.added ?? '?'} -${file.removed ?? '?'} since build ${lastGood?.number}`,
    );
  return [
    `what       ${tone(io, 'bad', failure.what)}`,
    ...telling,
    `why        ${failure.why}`,
    `next       ${explanation?.next ?? failure.next}`,
    ...(lastGood?.commits ?? [])
      .slice(0, 5)
      .map(
        (one) =>
          `commit     ${one.id.slice(0, 12)} ${safe(one.subject)}, ${safe(authorInWords(one))}`,
      ),
    ...changed,
    ...(lastGood?.packages ?? [])
      .slice(0, 8)
      .map(
        (one) =>
          `package    ${safe(one.name)} was ${versionOf(one.before)}, is ${versionOf(one.now)}`,
      ),
    ...(explanation?.tools ?? []).map(
      (tool) => `tool       ${tool.name} was ${tool.before}, is ${tool.now}`,
    ),
    ...(explanation?.elsewhere ?? []).map(
      (other) =>
        `also       build ${other.build} of ${safe(nameOfRef(other.ref))} fails in the same step`,
    ),
  ];
}

function versionOf(version: string | null): string {
  return version === null ? 'not there' : safe(version);
}

function whatItMade({ artifact, addresses, live }: BuildReply): readonly string[] {
  if (artifact === null) return [];
  return [
    `artifact   ${spoken(artifact.digest)}, ${counted(artifact.files, 'file')}, ${bytes(artifact.bytes)}`,
    ...addresses.toReversed().map((address) => `answers at ${address}`),
    `live in    ${live.join(', ') || 'no environment'}`,
  ];
}
