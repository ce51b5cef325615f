export * from './phHistories.ts'
