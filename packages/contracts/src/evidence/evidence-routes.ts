import { type InspectionRule, inspectionRules, severities } from '@vaquero/core';
import { z } from 'zod';
import { route } from '../http/route.ts';
import { digest, nothing } from '../vocabulary.ts';

const rule = z.enum(Object.keys(inspectionRules) as [InspectionRule, ...InspectionRule[]]);

/** What the inspection looks for, and which of it stops a build: the map says that. */
export const inspectionReply = z.object({
  rules: z.array(
    z.object({
      rule,
      severity: z.enum(severities),
      cure: z.string(),
      /** The rules of the map whose builds it stops, in lane order. */
      stops: z.array(z.string()),
    }),
  ),
});
export type InspectionReply = z.output<typeof inspectionReply>;

export const showInspectionRoute = route({
  method: 'GET',
  path: '/api/projects/:project/inspection',
  summary: 'Shows what the inspection looks for, and what of it stops a build',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: inspectionReply,
});

/** A signed statement. Source: DSSE 1.0, protocol.md and envelope.md. */
export const envelope = z.object({
  payloadType: z.string(),
  payload: z.base64(),
  signatures: z.array(z.object({ keyid: z.string(), sig: z.base64() })),
});
export type Envelope = z.output<typeof envelope>;

export const provenanceRoute = route({
  method: 'GET',
  path: '/api/projects/:project/builds/:build/provenance',
  summary: 'Gives the signed statement of where a build’s artifact came from',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: envelope,
});
/** What a build's artifact holds: the very text whose SHA-256 is the artifact's name. */
export const manifestRoute = route({
  method: 'GET',
  path: '/api/projects/:project/builds/:build/manifest',
  summary: 'Gives what a build’s artifact holds, as the text that it is named by',
  access: { in: 'project', ability: 'read' },
  query: nothing,
  body: nothing,
  reply: z.object({ artifact: digest, text: z.string() }),
});
/** The public key of the installation: what it signed can be checked without it. */
export const signingKeyRoute = route({
  method: 'GET',
  path: '/api/signing-key',
  summary: 'Gives the public key that statements are signed with',
  access: { in: 'open' },
  query: nothing,
  body: nothing,
  reply: z.object({ keyId: z.string(), pem: z.string() }),
});

/** The type of an in-toto statement's payload. Source: in-toto attestation, spec/v1/envelope.md. */
export const statementType = 'application/vnd.in-toto+json';

/**
 * The bytes that a signature of an envelope covers: the pre-authentication encoding of type and payload.
 * Source: DSSE 1.0, protocol.md, "PAE(type, body)".
 */
export function signedBytes(type: string, payload: Uint8Array): Uint8Array {
  const head = new TextEncoder().encode(
    `DSSEv1 ${new TextEncoder().encode(type).length} ${type} ${payload.length} `,
  );
  const whole = new Uint8Array(head.length + payload.length);
  whole.set(head);
  whole.set(payload, head.length);
  return whole;
}
