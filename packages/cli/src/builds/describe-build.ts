import type { BuildReply, BuildRow } from '@vaquero/contracts';
import { bytes, type Io, lasting, safe, spoken, tone } from '../output.ts';

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
    `Build ${build.number} ${stateOf(io, build.state)}${took}: ${safe(build.commit.subject)}`,
    `commit     ${build.commit.id.slice(0, 12)} by ${safe(build.commit.author)}, ${build.cause}`,
    `goes to    ${build.destination}`,
  ];
  lines.push(...why(io, build));
  if (build.place !== null) lines.push(`queue      ${build.place.ahead} ahead`);
  for (const step of build.steps) {
    const time =
      step.startedAt === null ? '' : lasting((step.endedAt ?? Date.now()) - step.startedAt);
    lines.push(
      `${step.name.padEnd(10)} ${time.padStart(8)}   ${tone(io, step.state === 'failed' ? 'bad' : 'quiet', step.state.padEnd(8))}  ${safe(step.says)}`,
    );
  }
  return [...lines, ...whatItMade(build)];
}

function why(io: Io, { failure, tellingLine, lastGood }: BuildReply): readonly string[] {
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
    `next       ${failure.next}`,
    ...changed,
  ];
}

function whatItMade({ artifact, addresses, live }: BuildReply): readonly string[] {
  if (artifact === null) return [];
  return [
    `artifact   ${spoken(artifact.digest)}, ${artifact.files} files, ${bytes(artifact.bytes)}`,
    ...addresses.toReversed().map((address) => `answers at ${address}`),
    `live in    ${live.join(', ') || 'no environment'}`,
  ];
}
