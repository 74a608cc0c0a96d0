import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import { setTimeout as pause } from 'node:timers/promises';
import {
  type AttemptGiven,
  CallRefused,
  type Client,
  failureOfRunner,
  headersOfRole,
  makeClient,
  pathOf,
  roleRoutes,
  ServiceUnreachable,
  type StepReport,
} from '@vaquero/contracts';
import type { BuildFailure, Digest } from '@vaquero/core';
import type { z } from 'zod';
import type { Segment } from './log-sender.ts';

type Proposal = z.input<typeof roleRoutes.proposeArtifactRoute.body>;
type Known = z.input<typeof roleRoutes.attemptKnownRoute.body>;
type Result = z.input<typeof roleRoutes.attemptResultRoute.body>;
type Report = z.input<typeof roleRoutes.attemptReportRoute.body>;

/** How long a call is tried again while the api is away: a restart or a short failure costs no build. */
const patienceMs = 180_000;

/** The api as one attempt sees it: every call bears the attempt's own credential. */
export interface AttemptClient {
  readonly beat: () => Promise<void>;
  readonly source: (signal: AbortSignal) => Promise<Response>;
  readonly log: (offset: number, bytes: Buffer, segments: readonly Segment[]) => Promise<void>;
  readonly steps: (steps: StepReport[]) => Promise<void>;
  readonly known: (asked: Known) => Promise<roleRoutes.KnownSteps>;
  /** Notes a step's output; returns the output that was known under the same key, if it was another. */
  readonly result: (result: Result) => Promise<string | null>;
  /** Hands a report over; returns what is wrong with it, if anything is. */
  readonly report: (report: Report) => Promise<string | null>;
  readonly openUpload: () => Promise<string>;
  /** Brings the bytes of a file to a store on another machine. */
  readonly uploadBlob: (upload: string, digest: Digest, file: string) => Promise<void>;
  /** Proposes the artifact; null when what it is said to be like is not kept. */
  readonly propose: (proposal: Proposal) => Promise<Digest | null>;
  /** Says that all steps passed, of a recipe that publishes nothing. */
  readonly pass: () => Promise<void>;
  readonly fail: (failure: BuildFailure) => Promise<void>;
}

/** Makes the client of an attempt. Calls that find the api away are tried again until `signal` aborts. */
export function makeAttemptClient(
  api: string,
  given: AttemptGiven,
  signal: AbortSignal,
): AttemptClient {
  const headers = headersOfRole(given.credential);
  const client: Client = makeClient({ address: api, headers });
  const params = { attempt: given.attempt };
  const again = <T>(call: () => Promise<T>): Promise<T> => patiently(call, signal);
  return {
    beat: async () => {
      await client.call(roleRoutes.attemptBeatRoute, { params });
    },
    source: (abort) =>
      again(async () => {
        const response = await fetch(`${api}/role/attempts/${given.attempt}/source`, {
          headers,
          signal: abort,
        });
        if (response.status === 422) throw await refusalOf(response);
        if (!response.ok)
          throw new ServiceUnreachable(api, `the source came with HTTP ${response.status}`);
        return response;
      }),
    log: (offset, bytes, segments) =>
      again(async () => {
        const query = new URLSearchParams({
          offset: String(offset),
          segments: JSON.stringify(segments),
        });
        const response = await fetch(`${api}/role/attempts/${given.attempt}/log?${query}`, {
          method: 'POST',
          headers: { ...headers, 'content-type': 'application/octet-stream' },
          body: new Uint8Array(bytes),
          signal,
        }).catch((cause: unknown) => {
          throw new ServiceUnreachable(api, 'the log could not be sent', { cause });
        });
        if (response.status === 409) throw new AttemptOver();
        if (!response.ok)
          throw new ServiceUnreachable(api, `the log was answered with HTTP ${response.status}`);
      }),
    steps: (steps) =>
      again(async () => {
        await client.call(roleRoutes.attemptStepsRoute, { params, body: { steps } });
      }),
    known: (body) =>
      again(async () => (await client.call(roleRoutes.attemptKnownRoute, { params, body })).steps),
    result: (body) =>
      again(
        async () => (await client.call(roleRoutes.attemptResultRoute, { params, body })).differs,
      ),
    report: (body) =>
      again(
        async () => (await client.call(roleRoutes.attemptReportRoute, { params, body })).problem,
      ),
    openUpload: () =>
      again(
        async () =>
          (await client.call(roleRoutes.openUploadRoute, { params, body: undefined })).upload,
      ),
    uploadBlob: (upload, digest, file) =>
      again(() =>
        sendFile(
          `${api}${pathOf(roleRoutes.uploadBlobRoute, { ...params, upload, digest })}`,
          file,
          headers,
          signal,
        ),
      ),
    propose: (proposal) =>
      again(
        async () =>
          (await client.call(roleRoutes.proposeArtifactRoute, { params, body: proposal })).artifact,
      ),
    pass: () =>
      again(async () => {
        await client.call(roleRoutes.attemptPassedRoute, { params, body: undefined });
      }),
    fail: (failure) =>
      again(async () => {
        await client.call(roleRoutes.attemptFailedRoute, {
          params,
          body: { failure: failureOfRunner(failure) },
        });
      }),
  };
}

/** The refusal of a call that is not made through the client, in its own words. */
async function refusalOf(response: Response): Promise<Error> {
  const problem = (await response.json()) as { readonly detail?: string };
  return new Error(problem.detail ?? `HTTP ${response.status}`);
}

async function sendFile(
  address: string,
  file: string,
  headers: Readonly<Record<string, string>>,
  signal: AbortSignal,
): Promise<void> {
  const { size } = await stat(file);
  const response = await fetch(address, {
    method: 'PUT',
    headers: { ...headers, 'content-length': String(size) },
    body: Readable.toWeb(createReadStream(file)) as ReadableStream<Uint8Array>,
    duplex: 'half',
    signal,
  } as RequestInit);
  if (response.status === 409) throw new AttemptOver();
  if (!response.ok)
    throw new ServiceUnreachable(address, `a file was answered with HTTP ${response.status}`);
}

/** The attempt is over for the api; nothing more is to be sent. */
export class AttemptOver extends Error {
  override readonly name = 'AttemptOver';
}

/** Calls until it works. Throws AttemptOver when the api says so, and the last failure when patience ends. */
export async function patiently<T>(call: () => Promise<T>, signal: AbortSignal): Promise<T> {
  const until = performance.now() + patienceMs;
  for (let tried = 1; ; tried += 1) {
    try {
      return await call();
    } catch (error) {
      if (error instanceof CallRefused && error.problem.code === 'attempt-over')
        throw new AttemptOver();
      if (!mayPass(error) || signal.aborted || performance.now() > until) throw error;
      await pause(Math.min(2_000, 50 * 2 ** tried) * (1 + Math.random() / 4), undefined, {
        signal,
      });
    }
  }
}

function mayPass(error: unknown): boolean {
  if (error instanceof CallRefused) return error.problem.status >= 500;
  return (
    error instanceof ServiceUnreachable ||
    (error instanceof TypeError && error.message === 'fetch failed')
  );
}
