import { lend } from './admission/lend.ts';
import { pass } from './admission/pass.ts';
import { sweep } from './artifacts/sweep.ts';
import { addRunner } from './builds/add-runner.ts';
import { build } from './builds/build.ts';
import { buildAgain } from './builds/build-again.ts';
import { builds } from './builds/builds.ts';
import { cancel } from './builds/cancel.ts';
import { compare } from './builds/compare.ts';
import { drainRunner } from './builds/drain-runner.ts';
import { dropRunner } from './builds/drop-runner.ts';
import { find } from './builds/find.ts';
import { follow } from './builds/follow.ts';
import { log } from './builds/log.ts';
import { runners } from './builds/runners.ts';
import { useRunner } from './builds/use-runner.ts';
import type { Declared } from './command.ts';
import { end } from './environments/end.ts';
import { keep } from './environments/keep.ts';
import { live } from './environments/live.ts';
import { previews } from './environments/previews.ts';
import { checkProvenance } from './evidence/check-provenance.ts';
import { inspection } from './evidence/inspection.ts';
import { manifest } from './evidence/manifest.ts';
import { provenance } from './evidence/provenance.ts';
import { signingKey } from './evidence/signing-key.ts';
import { checkMap } from './map/check-map.ts';
import { map } from './map/map.ts';
import { mapSchema } from './map/map-schema.ts';
import { mapVersions } from './map/map-versions.ts';
import { reach } from './map/reach.ts';
import { setMap } from './map/set-map.ts';
import { tryMap } from './map/try-map.ts';
import { why } from './map/why.ts';
import { endGroup } from './people/end-group.ts';
import { endSecondFactor } from './people/end-second-factor.ts';
import { endService } from './people/end-service.ts';
import { grant } from './people/grant.ts';
import { grantEverywhere } from './people/grant-everywhere.ts';
import { groups as groupsOfPeople } from './people/groups.ts';
import { invite } from './people/invite.ts';
import { joinGroup } from './people/join-group.ts';
import { leaveGroup } from './people/leave-group.ts';
import { mail } from './people/mail.ts';
import { makeGroup } from './people/make-group.ts';
import { makeService } from './people/make-service.ts';
import { makeToken } from './people/make-token.ts';
import { members } from './people/members.ts';
import { passwordLink } from './people/password-link.ts';
import { people } from './people/people.ts';
import { revokeToken } from './people/revoke-token.ts';
import { secondFactor } from './people/second-factor.ts';
import { serviceToken } from './people/service-token.ts';
import { services } from './people/services.ts';
import { signIn } from './people/sign-in.ts';
import { signInRule } from './people/sign-in-rule.ts';
import { signOut } from './people/sign-out.ts';
import { tokens } from './people/tokens.ts';
import { who } from './people/who.ts';
import { endProject } from './projects/end-project.ts';
import { look } from './projects/look.ts';
import { make } from './projects/make.ts';
import { projects } from './projects/projects.ts';
import { rename } from './projects/rename.ts';
import { repositoryKey } from './projects/repository-key.ts';
import { repositoryToken } from './projects/repository-token.ts';
import { repositoryUrl } from './projects/repository-url.ts';
import { source } from './projects/source.ts';
import { acceptRecipe } from './recipes/accept-recipe.ts';
import { checkRecipe } from './recipes/check-recipe.ts';
import { recipe } from './recipes/recipe.ts';
import { recipeSchema } from './recipes/recipe-schema.ts';
import { bringIn } from './refs/bring-in.ts';
import { closePullRequest } from './refs/close-pull-request.ts';
import { draft } from './refs/draft.ts';
import { giveWord } from './refs/give-word.ts';
import { mergePullRequest } from './refs/merge-pull-request.ts';
import { openPullRequest } from './refs/open-pull-request.ts';
import { pullRequest } from './refs/pull-request.ts';
import { pullRequests } from './refs/pull-requests.ts';
import { reopenPullRequest } from './refs/reopen-pull-request.ts';
import { retargetPullRequest } from './refs/retarget-pull-request.ts';
import { verdict } from './refs/verdict.ts';
import { addEdge } from './releases/add-edge.ts';
import { dropEdge } from './releases/drop-edge.ts';
import { edges } from './releases/edges.ts';
import { history } from './releases/history.ts';
import { letIn } from './releases/let-in.ts';
import { liftHold } from './releases/lift-hold.ts';
import { promote } from './releases/promote.ts';
import { rollBack } from './releases/roll-back.ts';
import { set } from './variables/set.ts';
import { unset } from './variables/unset.ts';
import { variables } from './variables/variables.ts';
import { visits } from './visits/visits.ts';

/** Commands that belong together, under a heading. */
export interface Group {
  readonly heading: string;
  /** What one does first is shown a line each; of the rest the help names only the names. */
  readonly isFirst: boolean;
  readonly commands: readonly Declared[];
}

/** Every command, in the order of the help. */
export const groups: readonly Group[] = [
  {
    heading: 'What is live, and going back',
    isFirst: true,
    commands: [live, history, promote, letIn, rollBack, liftHold, visits],
  },
  {
    heading: 'Builds',
    isFirst: true,
    commands: [builds, build, follow, log, find, buildAgain, cancel],
  },
  {
    heading: 'Projects and people',
    isFirst: true,
    commands: [signIn, who, projects, make],
  },
  {
    heading: 'The map',
    isFirst: false,
    commands: [map, why, reach, tryMap, setMap, mapVersions, checkMap, mapSchema],
  },
  {
    heading: 'Pull requests',
    isFirst: false,
    commands: [
      pullRequests,
      pullRequest,
      openPullRequest,
      verdict,
      giveWord,
      bringIn,
      mergePullRequest,
      closePullRequest,
      reopenPullRequest,
      retargetPullRequest,
      draft,
      previews,
      keep,
      end,
    ],
  },
  {
    heading: 'How it is built',
    isFirst: false,
    commands: [
      source,
      rename,
      endProject,
      recipe,
      acceptRecipe,
      checkRecipe,
      recipeSchema,
      variables,
      set,
      unset,
      inspection,
      look,
    ],
  },
  {
    heading: 'What it holds',
    isFirst: false,
    commands: [compare, provenance, manifest, checkProvenance, signingKey],
  },
  {
    heading: 'Access',
    isFirst: false,
    commands: [
      lend,
      pass,
      members,
      invite,
      grant,
      people,
      grantEverywhere,
      passwordLink,
      secondFactor,
      mail,
      endSecondFactor,
      signInRule,
      groupsOfPeople,
      makeGroup,
      joinGroup,
      leaveGroup,
      endGroup,
      services,
      makeService,
      serviceToken,
      endService,
      signOut,
      tokens,
      makeToken,
      revokeToken,
    ],
  },
  {
    heading: 'Machines',
    isFirst: false,
    commands: [
      runners,
      addRunner,
      drainRunner,
      useRunner,
      dropRunner,
      edges,
      addEdge,
      dropEdge,
      sweep,
      repositoryToken,
      repositoryUrl,
      repositoryKey,
    ],
  },
];
