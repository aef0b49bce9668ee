export * from './forecasts.ts'
export * from './calendarLinks.ts'
export * from './leadTimes.ts'
export * from './drivers.ts'
