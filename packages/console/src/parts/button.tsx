import type { ComponentProps } from 'react';
import { merge } from './merge.ts';

export const buttonTones = {
  action: 'bg-action text-on-action border-action font-[600]',
  quiet: 'bg-transparent text-ink border-control',
  warn: 'bg-transparent text-warn border-warn font-[600]',
} as const;

type ButtonProps = ComponentProps<'button'> & { readonly tone?: keyof typeof buttonTones };

/** A button. A disabled one says why beside it, never by its colour alone. */
export function Button({ tone = 'quiet', className, ...rest }: ButtonProps) {
  return (
    <button
      type="button"
      {...rest}
      className={merge(
        'rounded-control border px-3 min-h-7 pointer-coarse:min-h-11 disabled:opacity-55',
        buttonTones[tone],
        className,
      )}
    />
  );
}
