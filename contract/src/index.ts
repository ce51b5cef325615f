export * from './entries.ts'
export * from './requests.ts'
export { ROUTES } from './routes.ts'
export * from './views.ts'
