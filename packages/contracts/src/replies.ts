import type { z } from 'zod';
import type { buildReply, buildRow } from './builds/build-routes.ts';
import type {
  deploySeen,
  environmentSeen,
  holdSeen,
  laneReply,
  moveReply,
} from './environments/environment-routes.ts';
import type { me } from './people/people-routes.ts';
import type { projectSeen } from './projects/project-routes.ts';
import type { recipeReply } from './recipes/recipe-routes.ts';

/** The shapes of replies, by the name of what they show. */
export type BuildReply = z.output<typeof buildReply>;
export type BuildRow = z.output<typeof buildRow>;
export type DeploySeen = z.output<typeof deploySeen>;
export type EnvironmentSeen = z.output<typeof environmentSeen>;
export type HoldSeen = z.output<typeof holdSeen>;
export type LaneReply = z.output<typeof laneReply>;
export type Me = z.output<typeof me>;
export type MoveReply = z.output<typeof moveReply>;
export type ProjectSeen = z.output<typeof projectSeen>;
export type RecipeReply = z.output<typeof recipeReply>;
