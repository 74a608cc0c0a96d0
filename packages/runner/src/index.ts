export { type Limits, type RunnerConfig, readRunnerConfig, withoutWallsWords } from './config.ts';
export { unmountBelow } from './sources/layered.ts';
export { type RunnerOptions, type RunningRunner, startRunner } from './start.ts';
