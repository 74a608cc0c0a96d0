import { type ProjectRole, projectRoles } from '@vaquero/core';
import { Choice } from '../parts/field.tsx';

const choices = projectRoles.map((role) => [role, role] as const);

/** One of the roles of a project. */
export function RoleChoice({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: ProjectRole;
  readonly onChange: (role: ProjectRole) => void;
}) {
  return (
    <Choice
      label={label}
      choices={choices}
      value={value}
      onChange={({ currentTarget }) =>
        onChange(projectRoles.find((one) => one === currentTarget.value) ?? 'reader')
      }
    />
  );
}
