export { deleteView, listViews, type PastViewRow, writeView } from './views.ts'
export { deleteKnownJob, type KnownJob, listKnownJobs, writeKnownJob } from './knownJobs.ts'
export { listTroubles, listWitnesses, type TroubleRow, type WitnessRow } from './availability.ts'
