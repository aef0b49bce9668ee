export * from './battery.ts'
