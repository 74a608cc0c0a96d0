import {
  type AnyRoute,
  everyRoute,
  paramNames,
  pathParams,
  refusalCatalogue,
  refusalsOf,
  version,
} from '@vaquero/contracts';
import { z } from 'zod';
import {
  createDocument,
  type ZodOpenApiOperationObject,
  type ZodOpenApiPathsObject,
  type ZodOpenApiResponsesObject,
} from 'zod-openapi';

const problem = z
  .object({
    type: z.string(),
    title: z.string(),
    status: z.number().int(),
    detail: z.string().meta({ description: 'What happened, and why, in a sentence.' }),
    next: z.string().meta({ description: 'What to do about it.' }),
    code: z.string().meta({ description: 'Which refusal it is.' }),
    requestId: z.string().meta({ description: 'The id of the call.' }),
  })
  .meta({
    id: 'Problem',
    description: 'A refusal. Source: RFC 9457. Some say more in fields of their own.',
  });

const words: Readonly<Record<AnyRoute['access']['in'], string>> = {
  open: 'Anybody.',
  role: 'A runner or an edge, by its token.',
  attempt: 'The runner that an attempt was given to, by the attempt’s credential.',
  self: 'Whoever is signed in.',
  installation: 'Members of the installation with the ability',
  project: 'Members of the project with the ability',
  environment: 'Who may change what this environment serves.',
  values: 'Who may set values there.',
};

const security: Readonly<Record<AnyRoute['access']['in'], readonly Record<string, string[]>[]>> = {
  open: [{}],
  role: [{ machine: [] }],
  attempt: [{ attempt: [] }],
  self: [{ token: [] }, { session: [] }],
  installation: [{ token: [] }, { session: [] }],
  project: [{ token: [] }, { session: [] }],
  environment: [{ token: [] }, { session: [] }],
  values: [{ token: [] }, { session: [] }],
};

/** The OpenAPI 3.1 document of every route. Source: spec.openapis.org/oas/v3.1.1. */
export function openApi(routes = everyRoute): object {
  const paths: ZodOpenApiPathsObject = {};
  for (const [name, route] of routes) {
    const path = route.path.replace(/:([a-z]+)/gi, '{$1}');
    paths[path] = { ...paths[path], [route.method.toLowerCase()]: operationOf(name, route) };
  }
  const sorted = Object.entries(paths).sort(([a], [b]) => (a < b ? -1 : 1));
  return createDocument({
    openapi: '3.1.1',
    info: {
      title: 'Vaquero',
      version,
      description:
        'The calls that the command line, the console, runners and edges make. A POST may carry an Idempotency-Key: the same call with the same key is carried out once.',
      license: { name: 'Apache 2.0', identifier: 'Apache-2.0' },
    },
    servers: [{ url: '/' }],
    tags: tagsOf(routes),
    paths: Object.fromEntries(sorted),
    components: {
      securitySchemes: {
        token: { type: 'http', scheme: 'bearer', description: 'A token of a person.' },
        session: { type: 'apiKey', in: 'cookie', name: '__Host-vaquero' },
        machine: {
          type: 'http',
          scheme: 'bearer',
          description: 'The token of a runner or an edge.',
        },
        attempt: { type: 'http', scheme: 'bearer', description: 'The credential of one attempt.' },
      },
    },
  });
}

function operationOf(name: string, route: AnyRoute): ZodOpenApiOperationObject {
  const { access } = route;
  const names = paramNames(route.path);
  const query = objectIn(route.query);
  const may = 'ability' in access ? `${words[access.in]} to ${access.ability}.` : words[access.in];
  return {
    operationId: name.replace(/Route$/, ''),
    summary: route.summary,
    description: may,
    tags: [tagOf(route)],
    security: [...security[access.in]],
    requestParams: {
      ...(names.length === 0
        ? {}
        : { path: z.object(Object.fromEntries(names.map((one) => [one, pathParams[one]]))) }),
      ...(query === null ? {} : { query }),
      ...(route.method === 'POST' && may !== words.role && 'token' in (security[access.in][0] ?? {})
        ? { header: z.object({ 'Idempotency-Key': z.string().max(100).optional() }) }
        : {}),
    },
    ...bodyOf(route),
    responses: responsesOf(route),
  };
}

function bodyOf(route: AnyRoute): Pick<ZodOpenApiOperationObject, 'requestBody'> {
  if (route.takes !== undefined)
    return { requestBody: { required: true, content: { [route.takes]: { schema: bytes } } } };
  return isNothing(route.body)
    ? {}
    : { requestBody: { required: true, content: { 'application/json': { schema: route.body } } } };
}

const bytes = { type: 'string', format: 'binary' } as const;

function responsesOf(route: AnyRoute): ZodOpenApiResponsesObject {
  const content =
    route.gives === undefined
      ? { 'application/json': { schema: route.reply } }
      : { [route.gives]: { schema: bytes } };
  const good: ZodOpenApiResponsesObject =
    route.reply instanceof z.ZodNull
      ? { '204': { description: 'It is done.' } }
      : route.made === undefined
        ? { '200': { description: route.summary, content } }
        : {
            '201': {
              description: 'It is made, and stands at the address of `Location`.',
              headers: { Location: { schema: { type: 'string' } } },
              content,
            },
          };
  const byStatus = new Map<number, string[]>();
  for (const code of refusalsOf(route)) {
    const { status } = refusalCatalogue[code];
    byStatus.set(status, [...(byStatus.get(status) ?? []), code]);
  }
  const refused = [...byStatus].map(([status, codes]) => [
    String(status),
    {
      description: codes.map((code) => `\`${code}\``).join(', '),
      content: { 'application/problem+json': { schema: problem } },
    },
  ]);
  return { ...good, ...(Object.fromEntries(refused) as ZodOpenApiResponsesObject) };
}

/** The object of a query, whether it may be left out or not; null for none. */
function objectIn(schema: z.ZodType): z.ZodObject | null {
  const inner = schema instanceof z.ZodDefault ? (schema.unwrap() as z.ZodType) : schema;
  return inner instanceof z.ZodObject ? inner : null;
}

function isNothing(schema: z.ZodType): boolean {
  return schema.safeParse(undefined).success && !schema.safeParse({}).success;
}

/** The folder of its address that a route stands under. */
function tagOf({ path }: AnyRoute): string {
  const parts = path.split('/').filter((part) => part !== '' && !part.startsWith(':'));
  const [first = '', second = first, third] = parts;
  return first === 'role' ? 'machines' : second === 'projects' ? (third ?? second) : second;
}

const tagWords: Readonly<Record<string, string>> = {
  builds: 'Builds, their logs, manifests and statements',
  edges: 'Edges, for the operator',
  entries: 'What was decided',
  environments: 'Environments: moves, holds, history, visits',
  events: 'What changes',
  find: 'Finding builds',
  health: 'Whether the service answers',
  inspection: 'What artifacts are inspected for',
  lanes: 'Environments with their ledgers',
  live: 'What is live',
  looks: 'Reading a repository',
  machines: 'For runners and edges alone',
  me: 'Who calls',
  'openapi.json': 'This description',
  projects: 'Projects',
  'pull-requests': 'Pull requests',
  recipe: 'The recipe of a project',
  runners: 'Runners, for the operator',
  'sign-in': 'Signing in',
  'sign-out': 'Signing out',
  'signing-key': 'What statements are signed with',
  store: 'The store, for the operator',
  tokens: 'Tokens',
  variables: 'Variables and secrets',
};

function tagsOf(routes: typeof everyRoute): { name: string; description: string }[] {
  const names = [...new Set(routes.map(([, route]) => tagOf(route)))].sort();
  return names.map((name) => ({ name, description: tagWords[name] ?? name }));
}
