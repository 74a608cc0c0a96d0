import type { FirstSight } from '@vaquero/contracts';
import { Button } from '../parts/button.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { RecipeText } from '../recipes/recipe-text.tsx';

type Found = FirstSight['folders'][number]['recipe'];

/** How a folder would be built: the file that is there, or the one that it would be, which may be written otherwise first. */
export function FirstRecipe({
  recipe,
  edited,
  onEdit,
}: {
  readonly recipe: Found;
  /** What somebody has made of it; null while it is as it was found. */
  readonly edited: string | null;
  readonly onEdit: (text: string | null) => void;
}) {
  const { from, text, because, fault, reads } = recipe;
  return (
    <section aria-label="How it is built">
      <h2 className="border-b border-rule-2 pb-0.5">
        <b className="font-[650]">How it is built</b>{' '}
        <span className="text-ink-2">
          {from === 'file'
            ? 'by the recipe of the repository; it is changed by a commit'
            : 'as the file that it would be; change it, and it holds from the start'}
        </span>
      </h2>
      {text === null ? null : (
        <div className="mt-2 [&_.cm-editor]:max-h-80">
          <RecipeText
            text={edited ?? text}
            isReadOnly={from === 'file'}
            onChange={(now) => onEdit(now === text ? null : now)}
          />
        </div>
      )}
      {fault === null ? null : (
        <p role="alert" className="mt-1 text-bad">
          <Glyph name="failed" /> {fault}
        </p>
      )}
      {edited === null ? null : (
        <p className="mt-1">
          <Button onClick={() => onEdit(null)}>As it was found</Button>
        </p>
      )}
      {because.length === 0 ? null : (
        <ul className="mt-1 text-ink-2">
          {because.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
      )}
      {reads.length === 0 ? null : (
        <p className="mt-1">
          It is given <code>{reads.join(', ')}</code> by name, and nobody has set{' '}
          {reads.length === 1 ? 'it' : 'them'}: Settings, Values, once it is made.
        </p>
      )}
    </section>
  );
}
