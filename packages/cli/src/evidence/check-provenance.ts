import { createHash, createPublicKey, type KeyObject, verify } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { evidenceRoutes } from '@vaquero/contracts';
import { z } from 'zod';
import { command, EndedWith, Misuse } from '../command.ts';
import { exitCodes } from '../exit-codes.ts';
import { tone, when } from '../output.ts';

/**
 * Checks a signed statement without any service: the signature by the public key, and, with the
 * artifact's manifest, that it is this artifact. Ends with code 3 when it does not hold.
 */
export const checkProvenance = command({
  name: 'check-provenance',
  says: 'check a signed statement, without any service',
  examples: ['check-provenance statement.json --key key.pem'],
  takes: (bare) =>
    bare
      .argument('<file>', 'the statement')
      .requiredOption('--key <file>', 'the public key, as vaquero signing-key writes it')
      .option('--manifest <file>', 'the manifest of the artifact, as vaquero manifest writes it'),
  run: async (context, [path], { key, manifest }) => {
    const { io } = context;
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
      throw new EndedWith(exitCodes.refused.code);
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
      throw new EndedWith(exitCodes.refused.code);
    }
    if (context.json) io.write(`${JSON.stringify(said, null, 2)}\n`);
    else
      for (const line of [
        `${tone(io, 'good', 'It holds')}: ${subject?.name}, artifact ${subject?.digest.sha256}`,
        `from       ${said.predicate.buildDefinition.externalParameters.repository} ${said.predicate.buildDefinition.externalParameters.ref}`,
        `commit     ${said.predicate.buildDefinition.resolvedDependencies[0]?.digest.gitCommit}`,
        `built      ${when(Date.parse(said.predicate.runDetails.metadata.finishedOn))}`,
      ])
        io.out(line);
  },
});

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
