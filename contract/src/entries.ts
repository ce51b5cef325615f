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
