import { createHash, createPublicKey, type KeyObject, verify } from 'node:crypto';
import { readFile, writeFile } from 'node:fs/promises';
import { evidenceRoutes } from '@vaquero/contracts';
import { z } from 'zod';
import { type Context, EndedWith, give, Misuse } from '../command.ts';
import { tone, when } from '../output.ts';

/** The exit code of a statement that does not hold. */
const doesNotHold = 3;

/** Writes the signed statement of where a build's artifact came from. */
export async function writeProvenance(
  context: Context,
  project: string,
  build: number,
): Promise<void> {
  const envelope = await context.client.call(evidenceRoutes.provenanceRoute, {
    params: { project, build },
  });
  context.io.out(JSON.stringify(envelope, null, 2));
}

/** Writes the manifest of a build's artifact to a file, byte for byte: its SHA-256 is the artifact's name. */
export async function writeManifest(
  context: Context,
  project: string,
  build: number,
  file: string,
): Promise<void> {
  const { artifact, text } = await context.client.call(evidenceRoutes.manifestRoute, {
    params: { project, build },
  });
  await writeFile(file, text).catch((error: NodeJS.ErrnoException) => {
    throw new Misuse(`${file} cannot be written (${error.code}): name a file in a folder of yours`);
  });
  give(context, { artifact, file }, () =>
    context.io.out(`${file} is the manifest of artifact ${artifact}.`),
  );
}

/** Reads a file that was named. Throws Misuse where it is not there, with what writes it. */
async function readNamed(path: string, command: string): Promise<Buffer> {
  try {
    return await readFile(path);
  } catch (error) {
    if (!(error instanceof Error && 'code' in error)) throw error;
    const why = error.code === 'ENOENT' ? 'is not there' : `cannot be read (${error.code})`;
    throw new Misuse(`${path} ${why}: ${command} writes it`);
  }
}

/** Writes the public key that statements are checked with. */
export async function writeSigningKey(context: Context): Promise<void> {
  give(context, await context.client.call(evidenceRoutes.signingKeyRoute), ({ pem }) =>
    context.io.out(pem.trimEnd()),
  );
}

type Envelope = z.output<typeof evidenceRoutes.envelope>;

const statement = z.looseObject({
  subject: z.array(z.object({ name: z.string(), digest: z.object({ sha256: z.string() }) })),
  predicate: z.looseObject({
    buildDefinition: z.looseObject({
      externalParameters: z.looseObject({ repository: z.string(), ref: z.string() }),
      resolvedDependencies: z.array(z.looseObject({ digest: z.record(z.string(), z.string()) })),
    }),
    runDetails: z.looseObject({ metadata: z.looseObject({ finishedOn: z.string() }) }),
  }),
});

function keyOf(path: string, bytes: Buffer): KeyObject {
  try {
    return createPublicKey(bytes);
  } catch {
    // What OpenSSL says of it names no file and helps nobody.
    throw new Misuse(`${path} is no public key: vaquero signing-key writes one`);
  }
}

function envelopeOf(path: string, bytes: Buffer): Envelope {
  let value: unknown;
  try {
    value = JSON.parse(bytes.toString());
  } catch {
    throw new Misuse(`${path} is no statement: it is no JSON`);
  }
  const read = evidenceRoutes.envelope.safeParse(value);
  if (!read.success) throw new Misuse(`${path} is no signed statement`);
  return read.data;
}

/** What a statement is checked against beside its signature. */
export interface CheckOptions {
  readonly key: string;
  readonly manifest: string | undefined;
}

/**
 * Checks a signed statement without any service: the signature by the public key, and, with the
 * artifact's manifest, that it is this artifact. Ends with code 3 when it does not hold.
 */
export async function checkProvenance(
  { io, json }: Context,
  path: string,
  { key, manifest }: CheckOptions,
): Promise<void> {
  const envelope = envelopeOf(
    path,
    await readNamed(path, `vaquero provenance PROJECT BUILD > ${path}`),
  );
  const publicKey = keyOf(key, await readNamed(key, `vaquero signing-key > ${key}`));
  const payload = Buffer.from(envelope.payload, 'base64');
  const bytes = evidenceRoutes.signedBytes(envelope.payloadType, payload);
  const isSigned = envelope.signatures.some(({ sig }) =>
    verify(null, bytes, publicKey, Buffer.from(sig, 'base64')),
  );
  if (!isSigned) {
    io.err(tone(io, 'bad', 'The statement was not signed with this key, or was changed since.'));
    throw new EndedWith(doesNotHold);
  }
  const said = statement.parse(JSON.parse(payload.toString('utf8')));
  const [subject] = said.subject;
  const digest =
    manifest === undefined
      ? undefined
      : createHash('sha256')
          .update(await readNamed(manifest, `vaquero manifest PROJECT BUILD ${manifest}`))
          .digest('hex');
  if (digest !== undefined && digest !== subject?.digest.sha256) {
    io.err(tone(io, 'bad', `The statement is about ${subject?.digest.sha256}, not ${digest}.`));
    throw new EndedWith(doesNotHold);
  }
  if (json) io.out(JSON.stringify(said, null, 2));
  else
    for (const line of [
      `${tone(io, 'good', 'It holds')}: ${subject?.name}, artifact ${subject?.digest.sha256}`,
      `from       ${said.predicate.buildDefinition.externalParameters.repository} ${said.predicate.buildDefinition.externalParameters.ref}`,
      `commit     ${said.predicate.buildDefinition.resolvedDependencies[0]?.digest.gitCommit}`,
      `built      ${when(Date.parse(said.predicate.runDetails.metadata.finishedOn))}`,
    ])
      io.out(line);
}
