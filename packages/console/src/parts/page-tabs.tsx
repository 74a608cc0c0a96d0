import { NavLink } from 'react-router';

/** Pages that belong together, as tabs above them. */
export function PageTabs({
  label,
  tabs,
}: {
  readonly label: string;
  readonly tabs: readonly { readonly to: string; readonly words: string }[];
}) {
  return (
    <nav aria-label={label} className="mb-2 flex flex-wrap gap-x-5 border-b border-rule-2">
      {tabs.map(({ to, words }) => (
        <NavLink
          key={to}
          end
          to={to}
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
