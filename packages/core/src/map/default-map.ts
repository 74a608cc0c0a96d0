/** The map that a new project gets: a push goes to staging, production takes what staging serves, a preview for each pull request. */
export function defaultMap(project: string, trunk: string): string {
  const branch = JSON.stringify(trunk);
  const plain = /^[A-Za-z][\w./-]*$/.test(trunk) ? trunk : branch;
  return `map: ${project}
format: 1
lanes: [production, staging, preview]
environments:
  production: {accepts: {from: staging}}
  staging: {follows: {branch: ${plain}}}
  preview: {each: {proposed-into: ${plain}}}
`;
}
