export {
  deleteRating,
  type DriveForecast,
  type DriveRow,
  type DriveSeries,
  listDriveForecasts,
  listDrives,
  listDriveSeries,
  listModels,
  ratedBytesByPart,
  writePaces,
  writeRatings,
} from './drives.ts'
export { findPage, storePages } from './pages.ts'
export { type Service, servicesAround, type Stretch, stretchesOfMoved } from './services.ts'
