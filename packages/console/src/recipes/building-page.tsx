import { useQuery } from '@tanstack/react-query';
import type { RecipeReply } from '@vaquero/contracts';
import { Fragment } from 'react';
import { useParams } from 'react-router';
import { InspectionSetting } from '../evidence/inspection-setting.tsx';
import { SettingsPage } from '../frame/settings-page.tsx';
import { Glyph } from '../parts/glyph.tsx';
import { recipeOf } from './recipe-of.ts';
import { RecipeSection } from './recipe-section.tsx';

/** How a project is built: the recipe in force as the file that it is or would be, and what every artifact is looked at for. */
export function BuildingPage() {
  const { project = '' } = useParams();
  return (
    <SettingsPage
      project={project}
      what="the recipe"
      asked={useQuery(recipeOf(project))}
      answer={answerOf}
      below="A file in the repository wins over what was accepted here, and that over what is proposed."
    >
      {(recipe) => (
        <>
          <RecipeSection project={project} recipe={recipe} />
          <Further recipe={recipe} />
          <InspectionSetting project={project} />
        </>
      )}
    </SettingsPage>
  );
}

function answerOf({ commit, inForce, accepted, fileFault }: RecipeReply): string {
  if (fileFault !== null) return `The recipe cannot be read: ${fileFault}`;
  if (inForce === null)
    return commit === null
      ? 'Nothing was pushed yet: there is nothing to make a recipe of.'
      : 'There is no recipe, and none can be proposed.';
  const { source } = inForce;
  if (source.from === 'file') return `Builds follow ${source.file} of the repository.`;
  return source.from === 'accepted'
    ? `Builds follow the recipe that ${accepted?.by ?? 'somebody'} accepted, version ${source.version}.`
    : 'Builds follow a recipe that is proposed: nobody has accepted it yet.';
}

function Further({ recipe: { further } }: { readonly recipe: RecipeReply }) {
  if (further.length === 0) return null;
  return (
    <section aria-label="Further recipes" className="mt-6 border-t border-rule pt-3">
      <h2 className="pb-1 font-[650]">Further recipes</h2>
      <dl className="grid grid-cols-[8rem_1fr] gap-y-0.5 max-sm:grid-cols-1">
        {further.map(({ name, file, steps, publishes, fault }) => (
          <Fragment key={name}>
            <dt className="font-[650]">{name}</dt>
            <dd>
              {fault === null ? (
                `${steps.join(', ')}; ${publishes ? 'publishes a site' : 'publishes nothing'}`
              ) : (
                <span className="text-bad">
                  <Glyph name="failed" /> {fault}
                </span>
              )}{' '}
              <span className="text-ink-2">{file}</span>
            </dd>
          </Fragment>
        ))}
      </dl>
    </section>
  );
}
