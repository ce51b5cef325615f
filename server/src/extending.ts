/** What a server's extension may use of it. */
export type { ServerContext } from './context.ts'
export type { Database, Transaction } from './database/open.ts'
export * as tables from './database/schema.ts'
export type { ServerExtension } from './extension.ts'
export { isUuid } from './http/serve.ts'
export { readBody } from './http/validate.ts'
export { notFound, Problem } from './problem.ts'
export { calibrationsInForce, type Installed, installedAt, installedSensors } from './sensors.ts'
