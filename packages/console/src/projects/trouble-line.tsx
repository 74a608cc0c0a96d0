/** What keeps a repository from being read; nothing where it is. */
export function TroubleLine({ trouble }: { readonly trouble: string | null }) {
  return trouble === null ? null : (
    <p role="alert" className="text-bad">
      It is not read: {trouble} It is tried again by itself.
    </p>
  );
}
