import { NavLink } from 'react-router';

const tabs = [
  { to: '', words: 'Drawn and written' },
  { to: '/reach', words: 'Reach and why' },
] as const;

/** The two questions that the map answers, a page each. */
export function MapTabs({ project }: { readonly project: string }) {
  return (
    <nav aria-label="The map" className="mb-2 flex gap-5 border-b border-rule-2">
      {tabs.map(({ to, words }) => (
        <NavLink
          key={to}
          end
          to={`/p/${project}/map${to}`}
          className={({ isActive }) =>
            `py-1 no-underline ${isActive ? 'border-b-2 border-ink font-[650] text-ink' : 'text-ink-2'}`
          }
        >
          {words}
        </NavLink>
      ))}
    </nav>
  );
}
