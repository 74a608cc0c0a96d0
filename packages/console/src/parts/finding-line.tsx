import type { Finding, Severity } from '@vaquero/core';
import { Glyph, type GlyphName } from './glyph.tsx';

const signs: Readonly<Record<Severity, GlyphName>> = {
  error: 'failed',
  warning: 'warned',
  note: 'skipped',
};

/** One finding: how bad, where, and what is there. */
export function FindingLine({ finding }: { readonly finding: Finding }) {
  const { severity, path, line, message } = finding;
  return (
    <>
      <Glyph name={signs[severity]} /> <span className="sr-only">{severity}: </span>
      <code className="[overflow-wrap:anywhere]">
        {path}
        {line === null ? '' : `:${line}`}
      </code>{' '}
      {message}
    </>
  );
}

/** Tells findings of one list apart. */
export function keyOf({ rule, path, line, message }: Finding): string {
  return `${rule} ${path} ${line} ${message}`;
}
