import { queryOptions, useQuery } from '@tanstack/react-query';
import { type RecipeReply, recipeRoutes } from '@vaquero/contracts';
import { Fragment } from 'react';
import { useParams } from 'react-router';
import { InspectionSetting } from '../evidence/inspection-setting.tsx';
import { SettingsPage } from '../frame/settings-page.tsx';
import { api } from '../http/api.ts';
import { Glyph } from '../parts/glyph.tsx';

const recipeOf = (project: string) =>
  queryOptions({
    queryKey: [project, 'recipe'],
    queryFn: ({ signal }) =>
      api.call(recipeRoutes.showRecipeRoute, { params: { project }, signal }),
  });

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
          <RecipeText recipe={recipe} />
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

function RecipeText({ recipe: { asFile, inForce } }: { readonly recipe: RecipeReply }) {
  if (asFile === null) return null;
  const source = inForce?.source;
  const because = source?.from === 'proposed' ? [...source.because, ...source.warnings] : [];
  return (
    <section aria-label="Recipe" className="mt-4">
      <h2 className="pb-1">
        <b className="font-[650]">Recipe</b>{' '}
        <span className="text-ink-2">
          {source?.from === 'file' ? 'as it is read' : 'as the file that it would be'}
        </span>
      </h2>
      <pre
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by keys
        tabIndex={0}
        className="max-h-[60vh] overflow-auto border border-rule bg-sheet p-2 font-mono"
      >
        {asFile}
      </pre>
      <p className="mt-1">
        <a
          download="vaquero.yaml"
          href={`data:application/yaml;charset=utf-8,${encodeURIComponent(asFile)}`}
        >
          Download it as vaquero.yaml
        </a>
      </p>
      {because.length === 0 ? null : (
        <ul className="mt-2 text-ink-2">
          {because.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
      )}
    </section>
  );
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
