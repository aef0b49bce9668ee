export * from './texts.ts'
