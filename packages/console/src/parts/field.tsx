import { type ComponentProps, type ReactNode, useId } from 'react';
import { merge } from './merge.ts';

interface Labelled {
  readonly label: ReactNode;
  /** What is wrong with what was written: said below the field, and read with it. */
  readonly fault?: string | undefined;
}

/** A line of text. */
export function TextField({
  label,
  fault,
  className,
  ...rest
}: ComponentProps<'input'> & Labelled) {
  return (
    <Field label={label} fault={fault}>
      {(described) => <input {...rest} {...described} className={merge('field', className)} />}
    </Field>
  );
}

/** Several lines of text. */
export function TextArea({
  label,
  fault,
  className,
  ...rest
}: ComponentProps<'textarea'> & Labelled) {
  return (
    <Field label={label} fault={fault}>
      {(described) => <textarea {...rest} {...described} className={merge('field', className)} />}
    </Field>
  );
}

interface ChoiceProps extends Omit<ComponentProps<'select'>, 'children'>, Labelled {
  readonly choices: readonly (readonly [value: string, says: string])[];
}

/** One of a few. */
export function Choice({ label, fault, choices, className, ...rest }: ChoiceProps) {
  return (
    <Field label={label} fault={fault}>
      {(described) => (
        <select {...rest} {...described} className={merge('field', className)}>
          {choices.map(([value, says]) => (
            <option key={value} value={value}>
              {says}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}

/** Yes or no. */
export function Tick({
  label,
  className,
  ...rest
}: Omit<ComponentProps<'input'>, 'type'> & { readonly label: ReactNode }) {
  return (
    <label className={merge('flex min-h-8 items-baseline gap-2', className)}>
      <input type="checkbox" {...rest} />
      <span className="flex items-baseline gap-2">{label}</span>
    </label>
  );
}

interface Described {
  readonly id: string;
  readonly 'aria-invalid'?: true;
  readonly 'aria-describedby'?: string;
}

function Field({
  label,
  fault,
  children,
}: Labelled & { readonly children: (described: Described) => ReactNode }) {
  const id = useId();
  const hint = `${id}-fault`;
  return (
    <div className="flex min-w-0 max-w-full flex-col gap-1">
      <label htmlFor={id} className="text-ink-2">
        {label}
      </label>
      {children({
        id,
        ...(fault === undefined ? {} : { 'aria-invalid': true, 'aria-describedby': hint }),
      })}
      {fault === undefined ? null : (
        <span id={hint} role="alert" className="text-bad">
          {fault}
        </span>
      )}
    </div>
  );
}
