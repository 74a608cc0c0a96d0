import {
  allow,
  type Decision,
  type DeliveryMap,
  type DocumentFault,
  mapActs,
  mapFaults,
  newMapFaults,
  refuse,
} from '@vaquero/core';
import { z } from 'zod';
import { type Language, placedFaults, readDocument } from '../documents/read-document.ts';
import { mapOf, mapSchema } from './map-schema.ts';

const language: Language<typeof mapSchema> = {
  schema: mapSchema,
  noun: 'map',
  notKnownYet: new Set([
    ...['probes', 'freezes', 'domains', 'gates', 'shares', 'watch', 'keeps'],
    'server',
  ]),
  keysAt: [
    [/^$/, ['map', 'format', 'zone', 'trunk', 'lanes', 'environments']],
    [
      /^environments\.[^.]+$/,
      [
        'follows',
        'each',
        'accepts',
        'enters',
        'gives',
        'may',
        'admits',
        'marks',
        'pictures',
        'overtaken',
        'stops',
        'ends',
        'at-most',
        'outsiders',
        'was',
      ],
    ],
    [/\.(?:follows|each)$/, ['branch', 'tag', 'proposed-into']],
    [/\.accepts$/, ['from']],
    [/\.outsiders$/, ['build', 'network']],
    [/\.gives$/, ['build']],
    [/\.may$/, [...mapActs]],
    [/\.ends$/, ['closed', 'untouched']],
  ],
};

/**
 * Reads the text of a map. `trunk` is the repository's own branch, for maps that name none.
 * Refuses: map-invalid, each fault with its line and column.
 */
export function readMap(text: string, version: number, trunk: string): Decision<DeliveryMap> {
  return readWith(text, version, trunk, mapFaults);
}

/** The same of a map that is to be set: limits that came later than maps did hold for it, too. Refuses: map-invalid. */
export function readNewMap(text: string, version: number, trunk: string): Decision<DeliveryMap> {
  return readWith(text, version, trunk, (map, lanes) => [
    ...mapFaults(map, lanes),
    ...newMapFaults(map),
  ]);
}

function readWith(
  text: string,
  version: number,
  trunk: string,
  faultsOf: typeof mapFaults,
): Decision<DeliveryMap> {
  const read = readDocument(text, language);
  if (!read.ok) return invalid(read.faults);
  const map = mapOf(read.value, version, trunk);
  const faults = faultsOf(map, read.value.lanes);
  return faults.length === 0 ? allow(map) : invalid(faults.map(read.placed));
}

function invalid(faults: readonly DocumentFault[]): Decision<never> {
  return refuse({ code: 'map-invalid', faults });
}

/** Every key of the language, for an editor that completes them. */
export const mapKeys: readonly string[] = [...new Set(language.keysAt.flatMap(([, keys]) => keys))];

/** Warnings of a map's check at their places in its text. */
export function placeWarnings(
  text: string,
  warnings: readonly { readonly path: readonly (string | number)[]; readonly message: string }[],
): readonly DocumentFault[] {
  return placedFaults(text, warnings);
}

/** The language as JSON Schema, for an editor. */
export function mapJsonSchema(): object {
  return z.toJSONSchema(mapSchema, { io: 'input', unrepresentable: 'any' });
}
