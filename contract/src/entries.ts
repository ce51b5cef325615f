/** How a device is reached. Further protocols add further kinds. */
export interface ModbusLinkSettings {
  kind: 'modbus-tcp'
  host: string
  port: number
  unit: number
}
export type LinkSettings = ModbusLinkSettings

export interface LotTable {
  temperatures: number[]
  values: number[]
}

/** What was chosen when a visit began. */
export interface VisitSettings {
  /** Standard by role. */
  standards: Record<string, string>
  /** What the procedure asks before it starts: serial number, model, cause. */
  opening: Record<string, number | string | boolean>
}
