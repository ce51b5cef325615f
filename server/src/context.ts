import type { Logger } from 'pino'
import type { SensorAlarms } from './alarms/sensorAlarms.ts'
import type { RouteContext } from './http/routeContext.ts'
import type { VisitDesk } from './visits/desk.ts'

/** What the capabilities of a running server share. */
export interface ServerContext extends RouteContext {
  desk: VisitDesk
  alarms: SensorAlarms
  /** Whether readings are still kept: the last room on the disk is for records. */
  room: { forReadings: boolean }
  log: Logger
}
