import { createHash, createPublicKey, verify } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { evidenceRoutes } from '@vaquero/contracts';
import { z } from 'zod';
import { type Context, EndedWith, give } from '../command.ts';
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

/** Writes the public key that statements are checked with. */
export async function writeSigningKey(context: Context): Promise<void> {
  give(context, await context.client.call(evidenceRoutes.signingKeyRoute), ({ pem }) =>
    context.io.out(pem.trimEnd()),
  );
}

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
  const envelope = evidenceRoutes.envelope.parse(JSON.parse(await readFile(path, 'utf8')));
  const publicKey = createPublicKey(await readFile(key, 'utf8'));
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
          .update(await readFile(manifest))
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
