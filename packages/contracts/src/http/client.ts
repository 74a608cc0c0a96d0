import type { RefusalCode } from '@vaquero/core';
import { z } from 'zod';
import { type Problem, refusalCatalogue } from '../refusals.ts';
import type { FilledBy } from './path-params.ts';
import { type Access, pathOf, type Route } from './route.ts';

type Filled = Readonly<Record<string, string | number>>;

/** A call that was refused or failed, with the problem the service sent. */
export class CallRefused extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.detail);
    this.name = 'CallRefused';
    this.problem = problem;
  }
}

/** The service could not be reached, or what answered was not the service. */
export class ServiceUnreachable extends Error {
  readonly address: string;

  constructor(address: string, why: string, options?: ErrorOptions) {
    super(why, options);
    this.name = 'ServiceUnreachable';
    this.address = address;
  }
}

/** How a client reaches the service. */
export interface ClientOptions {
  /** Origin such as `http://localhost:4600`; empty in the console, which lives there. */
  readonly address: string;
  /** Headers of every call, such as the one with a token. */
  readonly headers?: Readonly<Record<string, string>>;
  /** The fetch to call with; the global one by default. */
  readonly fetch?: typeof fetch;
  /** Makes an idempotency key; a random UUID by default. */
  readonly newKey?: () => string;
  /** Ends every call under way. */
  readonly signal?: AbortSignal;
}

/** What a call sends; `params` fill the path. */
export type CallInput<Query, Body, Path extends string> = Sent<Query, Body> &
  (keyof FilledBy<Path> extends never
    ? { readonly params?: undefined }
    : { readonly params: FilledBy<Path> });

interface Sent<Query, Body> {
  readonly query?: Query;
  readonly body?: Body;
  readonly signal?: AbortSignal;
  readonly key?: string;
  /** The version that was seen of what the call sets anew; `*` for any. */
  readonly seen?: string;
}

/** The typed client: one function that takes a declared route. */
export interface Client {
  readonly address: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly call: <
    Query extends z.ZodType,
    Body extends z.ZodType,
    Reply extends z.ZodType,
    Path extends string,
    Who extends Access,
  >(
    declaration: Route<Query, Body, Reply, Path, Who>,
    ...input: keyof FilledBy<Path> extends never
      ? [input?: CallInput<z.input<Query>, z.input<Body>, Path>]
      : [input: CallInput<z.input<Query>, z.input<Body>, Path>]
  ) => Promise<z.output<Reply>>;
}

const answers = new WeakMap<object, unknown>();

/** A reply as the service sent it: what a program is to be given. What is no reply is given as it is. */
export function asSent(reply: unknown): unknown {
  const sent = typeof reply === 'object' && reply !== null ? answers.get(reply) : undefined;
  return sent ?? reply;
}

/** Says as what a reply counts that was put together of several. */
export function countsAsSent<Reply extends object>(reply: Reply, sent: unknown): Reply {
  answers.set(reply, sent);
  return reply;
}

/**
 * Makes a client of the API. Every POST carries an idempotency key.
 * Throws `CallRefused` for a refusal and `ServiceUnreachable` when nothing, or something else, answers.
 */
export function makeClient(options: ClientOptions): Client {
  const { address, headers = {}, newKey = () => crypto.randomUUID() } = options;
  const send = options.fetch ?? fetch;
  return {
    address,
    headers,
    call: async (declaration, ...[given]) => {
      const input: Sent<unknown, unknown> & { readonly params?: Filled | undefined } = given ?? {};
      const search = new URLSearchParams(
        input.query as Record<string, string> | undefined,
      ).toString();
      const path = `${pathOf(declaration, input.params ?? {})}${search === '' ? '' : `?${search}`}`;
      const hasBody = input.body !== undefined;
      const ends = input.signal ?? options.signal;
      const response = await send(`${address}${path}`, {
        method: declaration.method,
        headers: {
          accept: 'application/json',
          ...headers,
          ...(hasBody ? { 'content-type': 'application/json' } : {}),
          ...conditionOf(input.seen),
          ...(declaration.method === 'POST' ? { 'idempotency-key': input.key ?? newKey() } : {}),
        },
        body: hasBody ? JSON.stringify(input.body) : null,
        signal: ends ?? null,
      }).catch((cause: unknown) => {
        if (ends?.aborted === true) throw cause;
        throw new ServiceUnreachable(address, reasonOf(cause), { cause });
      });
      const answer = await bodyOf(response, address);
      if (!response.ok) throw refusalOf(answer, response.status, address);
      const reply = z.decode(declaration.reply, answer as z.input<typeof declaration.reply>);
      if (typeof reply === 'object' && reply !== null) answers.set(reply, answer);
      return reply;
    },
  };
}

function conditionOf(seen: string | undefined): Record<string, string> {
  if (seen === undefined) return {};
  return { 'if-match': seen === '*' ? '*' : `"${seen}"` };
}

function reasonOf(cause: unknown): string {
  const inner = cause instanceof Error ? (cause.cause ?? cause) : cause;
  if (inner instanceof Error && 'code' in inner && typeof inner.code === 'string')
    return inner.code;
  return inner instanceof Error ? inner.message : String(inner);
}

async function bodyOf(response: Response, address: string): Promise<unknown> {
  const text = await response.text();
  if (text === '') return null;
  try {
    return JSON.parse(text) as unknown;
  } catch (cause) {
    throw new ServiceUnreachable(
      address,
      `what answers there is not Vaquero (HTTP ${response.status})`,
      { cause },
    );
  }
}

function refusalOf(answer: unknown, status: number, address: string): Error {
  if (isProblem(answer)) return new CallRefused(answer);
  return new ServiceUnreachable(address, `what answers there is not Vaquero (HTTP ${status})`);
}

function isProblem(answer: unknown): answer is Problem {
  return (
    typeof answer === 'object' &&
    answer !== null &&
    'code' in answer &&
    typeof answer.code === 'string' &&
    isKnown(answer.code)
  );
}

function isKnown(code: string): code is RefusalCode {
  return Object.hasOwn(refusalCatalogue, code);
}
