/** What a program needs to set a server going before it loads the rest: light, so that nothing waits for it. */
export { type Config, readConfig } from './config.ts'
export { beginDatabase } from './database/begin.ts'
export { StartProblem } from './problem.ts'
