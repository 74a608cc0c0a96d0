import { type BuildReply, writeRecipe } from '@vaquero/contracts';
import { useState } from 'react';
import { RecipeDownload } from './recipe-download.tsx';
import { RecipeText } from './recipe-text.tsx';

/** The recipe that a build followed, as text: opened when somebody wants it. */
export function RecipeOfBuild({
  recipe: { recipe },
}: {
  readonly recipe: NonNullable<BuildReply['recipe']>;
}) {
  const [isOpen, setOpen] = useState(false);
  // Which folder it writes was not said.
  if (recipe.serve?.site === null) return null;
  return (
    <details className="mt-1" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer text-action underline">as text</summary>
      {isOpen ? <Opened text={writeRecipe(recipe)} /> : null}
    </details>
  );
}

function Opened({ text }: { readonly text: string }) {
  return (
    <>
      <RecipeText text={text} isReadOnly onChange={() => undefined} />
      <p className="mt-1">
        <RecipeDownload text={text} />
      </p>
    </>
  );
}
