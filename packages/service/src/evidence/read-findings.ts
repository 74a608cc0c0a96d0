import { type Finding, type Severity, worstFirst } from '@vaquero/core';
import { z } from 'zod';
import { repositoryPath } from './report-place.ts';
import type { Read } from './report-read.ts';

const text = z.looseObject({ text: z.string().optional(), markdown: z.string().optional() });
const sarif = z.looseObject({
  version: z.literal('2.1.0'),
  runs: z.array(
    z.looseObject({
      tool: z.looseObject({
        driver: z.looseObject({
          name: z.string(),
          rules: z
            .array(
              z.looseObject({
                id: z.string(),
                help: text.optional(),
                shortDescription: text.optional(),
                defaultConfiguration: z.looseObject({ level: z.string().optional() }).optional(),
              }),
            )
            .optional(),
        }),
      }),
      originalUriBaseIds: z
        .record(
          z.string(),
          z.looseObject({ uri: z.string().optional(), uriBaseId: z.string().optional() }),
        )
        .optional()
        .catch(undefined),
      results: z
        .array(
          z.looseObject({
            ruleId: z.string().optional(),
            level: z.string().optional(),
            message: text,
            locations: z
              .array(
                z.looseObject({
                  physicalLocation: z
                    .looseObject({
                      artifactLocation: z
                        .looseObject({
                          uri: z.string().optional(),
                          uriBaseId: z.string().optional(),
                          index: z.number().optional(),
                        })
                        .optional(),
                      region: z.looseObject({ startLine: z.number().optional() }).optional(),
                    })
                    .optional(),
                }),
              )
              .optional(),
          }),
        )
        .nullish(),
    }),
  ),
});

const mostFindings = 2000;

/** Reads findings of a tool. Source: SARIF 2.1.0, sections 3.27 (result) and 3.27.10 (level). */
export function readFindings(content: string): Read<readonly Finding[]> {
  let document: unknown;
  try {
    document = JSON.parse(content);
  } catch {
    return { ok: false, why: 'it is no JSON' };
  }
  const read = sarif.safeParse(document);
  if (!read.success) {
    const [issue] = read.error.issues;
    return { ok: false, why: `it is no SARIF 2.1.0: ${issue?.path.join('.')} ${issue?.message}` };
  }
  const findings = read.data.runs.flatMap((run) => {
    const rules = new Map((run.tool.driver.rules ?? []).map((rule) => [rule.id, rule]));
    return (run.results ?? []).map((result): Finding => {
      const rule = rules.get(result.ruleId ?? '');
      const where = result.locations?.[0]?.physicalLocation;
      return {
        rule: `${run.tool.driver.name}/${result.ruleId ?? 'unnamed'}`,
        severity: severityOf(result.level ?? rule?.defaultConfiguration?.level ?? 'warning'),
        message: (result.message.text ?? result.message.markdown ?? '').slice(0, 1000),
        path: pathOf(where?.artifactLocation ?? {}, run.originalUriBaseIds ?? {}),
        line: where?.region?.startLine ?? null,
        cure: (rule?.help?.text ?? rule?.shortDescription?.text ?? '').slice(0, 500),
      };
    });
  });
  return { ok: true, value: worstFirst(findings).slice(0, mostFindings) };
}

interface Location {
  readonly uri?: string | undefined;
  readonly uriBaseId?: string | undefined;
}

/** A base may stand on another one, but not without end. */
const mostBases = 8;

/** The repository's path of a location. Source: SARIF 2.1.0, sections 3.4.3 and 3.14.14. */
function pathOf(location: Location, bases: Readonly<Record<string, Location>>): string {
  let uri = location.uri ?? '';
  let base = location.uriBaseId;
  for (
    let step = 0;
    step < mostBases && base !== undefined && !/^[a-z][a-z0-9+.-]*:/i.test(uri);
    step += 1
  ) {
    const under: Location | undefined = Object.hasOwn(bases, base) ? bases[base] : undefined;
    if (under?.uri !== undefined) uri = `${under.uri.replace(/\/?$/, '/')}${uri}`;
    base = under?.uriBaseId;
  }
  return repositoryPath(uri);
}

function severityOf(level: string): Severity {
  if (level === 'error') return 'error';
  return level === 'warning' ? 'warning' : 'note';
}
