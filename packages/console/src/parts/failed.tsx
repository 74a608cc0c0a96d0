import { troubleOf } from '../http/api.ts';

/** A failed load: what happened, and what still works. */
export function Failed({ error, retry }: { readonly error: unknown; readonly retry?: () => void }) {
  const { what, next } = troubleOf(error);
  return (
    <p role="alert" className="my-2 border-l-4 border-bad bg-bad-wash px-3 py-2">
      <b className="font-[650]">{what}</b> {next}{' '}
      {retry === undefined ? null : (
        <button type="button" className="text-action underline" onClick={retry}>
          Try now
        </button>
      )}
    </p>
  );
}
