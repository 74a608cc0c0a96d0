/** A secret by its name. Too short a value would blank out words that have nothing to do with it. */
export interface Secret {
  readonly name: string;
  readonly value: string;
}

const shortest = 6;

/**
 * Makes what replaces secrets in a line by `[NAME]`, also where they stand in base64 or URL form. Each
 * line of a secret of several lines is masked by itself; lines under 6 characters are left alone.
 */
export function makeMask(secrets: readonly Secret[]): (line: string) => string {
  const forms = secrets
    .flatMap(({ name, value }) =>
      value
        .split('\n')
        .filter((line) => line.length >= shortest)
        .flatMap((line) => formsOf(line).map((form) => ({ form, name }))),
    )
    .sort((a, b) => b.form.length - a.form.length);
  if (forms.length === 0) return (line) => line;
  return (line) =>
    forms.reduce(
      (text, { form, name }) => (text.includes(form) ? text.replaceAll(form, `[${name}]`) : text),
      line,
    );
}

/** A value as it is, percent-encoded, and the parts of its base64 that do not hang on what stands around it. */
function formsOf(value: string): readonly string[] {
  const encoded = [0, 1, 2].flatMap((shift) => {
    const text = Buffer.concat([Buffer.alloc(shift), Buffer.from(value)]).toString('base64');
    // The first characters mix with what precedes, the last with what follows.
    const from = [0, 2, 3][shift] ?? 0;
    const stable = text.replace(/=+$/, '').slice(from, -1);
    return [stable, stable.replaceAll('+', '-').replaceAll('/', '_')];
  });
  return [...new Set([value, encodeURIComponent(value), ...encoded])].filter(
    (form) => form.length >= shortest,
  );
}
