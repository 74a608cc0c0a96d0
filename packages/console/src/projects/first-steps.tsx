import type { ProjectSeen } from '@vaquero/contracts';

/** What to do first in a project that has no commit yet, and where it will stand. */
export function FirstSteps({ project }: { readonly project: ProjectSeen }) {
  return (
    <section className="mt-auto grid gap-7 border-t border-rule-2 pt-2 sm:grid-cols-2">
      <div>
        <h2>
          <b className="font-[650]">
            {project.repository.kind === 'hosted' ? 'Push what you have' : 'Commit to the branch'}
          </b>{' '}
          <span className="text-ink-2">
            {project.repository.kind === 'hosted'
              ? 'from your machine; a token is the password'
              : `its repository is read once a second`}
          </span>
        </h2>
        <pre className="mt-1 overflow-x-auto border border-rule bg-sheet p-2">
          {project.repository.kind === 'hosted'
            ? `vaquero make-token laptop --kind git\ngit push ${project.repository.place} ${project.branch}`
            : project.repository.place}
        </pre>
      </div>
      <div>
        <h2>
          <b className="font-[650]">Where it will answer</b>{' '}
          <span className="text-ink-2">before anything is built</span>
        </h2>
        <ul className="mt-1">
          {project.addresses.map(({ environment, address }) => (
            <li key={environment} className="border-b border-rule">
              {environment}{' '}
              <a className="font-mono text-[0.86em]" href={address}>
                {address}
              </a>
            </li>
          ))}
        </ul>
      </div>
    </section>
  );
}
