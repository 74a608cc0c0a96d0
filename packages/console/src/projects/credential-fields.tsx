import { TextField } from '../parts/field.tsx';

/** What a private repository is read with. */
export interface CredentialTyped {
  readonly user: string;
  readonly secret: string;
}

/** The name and the token that a private repository is read with. */
export function CredentialFields({
  value: { user, secret },
  onChange,
}: {
  readonly value: CredentialTyped;
  readonly onChange: (change: Partial<CredentialTyped>) => void;
}) {
  return (
    <>
      <TextField
        label="Name"
        className="w-40"
        autoComplete="off"
        value={user}
        onChange={(event) => onChange({ user: event.currentTarget.value })}
      />
      <TextField
        label="Token, kept sealed and never shown again"
        className="w-64 max-w-full"
        type="password"
        autoComplete="off"
        required
        value={secret}
        onChange={(event) => onChange({ secret: event.currentTarget.value })}
      />
    </>
  );
}
