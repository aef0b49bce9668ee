export * from './battery.ts'
export * from './strips.ts'
