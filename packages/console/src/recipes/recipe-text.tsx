import { readRecipe } from '@vaquero/contracts';
import { recipeFileName } from '@vaquero/core';
import { type TextFault, YamlText } from '../parts/yaml-text.tsx';

/** What is wrong with a recipe's text. */
export function recipeFaultsIn(text: string): readonly TextFault[] {
  const read = readRecipe(text, recipeFileName);
  return read.ok || read.refusal.code !== 'recipe-invalid' ? [] : read.refusal.faults;
}

/** A recipe as the file that it is or would be, with faults while typing. Tab leaves it. */
export function RecipeText(rest: {
  readonly text: string;
  readonly isReadOnly: boolean;
  readonly onChange: (text: string) => void;
}) {
  return (
    <YamlText
      {...rest}
      label="The recipe as text"
      faultsIn={recipeFaultsIn}
      complete={() => null}
    />
  );
}
