export { type EdgeConfig, readEdgeConfig } from './config.ts';
export { type EdgeOptions, type RunningEdge, startEdge } from './start.ts';
