import type { ProjectSeen } from '@vaquero/contracts';
import { authorInWords } from '@vaquero/core';
import type { Io } from '../io.ts';
import { safe, when } from '../output.ts';

/** Says where a project stands and what to do first. */
export function showProject(io: Io, project: ProjectSeen): void {
  io.out(`${project.name}: ${safe(project.repository.state)}`);
  if (project.head !== null)
    io.out(
      `head        ${project.head.commit.slice(0, 12)} ${safe(project.head.subject)} (${safe(authorInWords(project.head))}, ${when(project.head.at)})`,
    );
  for (const { environment, address } of project.addresses)
    io.out(`${environment.padEnd(11)} ${address}`);
  if (project.repository.kind === 'hosted')
    io.out(`push        git push ${project.repository.place} ${project.branch}`);
  else io.out(`repository  ${safe(project.repository.place)}`);
}
