import { modelOf, type SensorKind, standardOf } from '@frustum/core'
import Papa from 'papaparse'
import { checkEntry } from '../database/columns.ts'
import type { Database } from '../database/open.ts'
import { exportRecords } from './exportRecords.ts'

/** One row a captured point, the visit's own columns repeated; visits without points have one row. */
export async function exportCsv(db: Database, id: string | null): Promise<string> {
  const { visits, positions } = await exportRecords(db, id)
  const kinds = new Map(positions.map((p) => [p.code, p.position.kind as SensorKind]))
  const rows = visits.flatMap((v) => {
    const model = modelOf(kinds.get(v.position) as SensorKind)
    const observed = (
      v.observations as {
        asFound: number | null
        asLeft: number
        uncertainty: number
        fouling: number | null
        adjusted: boolean
      }[]
    )[0]
    const common = {
      visit: v.id,
      closed_at: v.closedAt,
      position: v.position,
      serial_number: v.sensor.serialNumber,
      procedure: v.procedure,
      operator: v.operator,
      outcome: v.outcome,
      as_found: observed?.asFound ?? '',
      as_left: observed?.asLeft ?? '',
      uncertainty: observed?.uncertainty ?? '',
      fouling: observed?.fouling ?? '',
      error_unit: model.errorScale.unit,
      adjusted: observed ? observed.adjusted : '',
      corrections: (v.corrections as { text: string }[]).map((c) => c.text).join(' | '),
    }
    const captured = (v.entries as { at: string; entry: CapturedLine }[]).filter(
      ({ entry }) => entry.type === 'captured' && checkEntry(entry) === null,
    )
    if (captured.length === 0) return [common]
    return captured.map(({ at, entry: { step, reading } }) => ({
      ...common,
      step,
      taken_at: at,
      signal: reading.signal,
      signal_uncertainty: reading.signalUncertainty,
      signal_unit: model.signalUnit,
      shown: reading.shown,
      temperature_c: reading.temperature,
      seconds: reading.stability.seconds,
      early_reason: reading.earlyReason ?? '',
      standard: reading.standard ? standardOf(reading.standard.code).label : '',
      standard_value: reading.standard?.value ?? '',
      lot: reading.standard?.lot ?? '',
    }))
  })
  const columns = [...new Set(rows.flatMap((r) => Object.keys(r)))]
  // A cell that a spreadsheet would take for a formula is quoted as text.
  return Papa.unparse(rows, { columns, escapeFormulae: true })
}

interface CapturedLine {
  type: string
  step: string
  reading: {
    signal: number
    signalUncertainty: number
    shown: number
    temperature: number
    stability: { seconds: number }
    earlyReason?: string
    standard?: { code: string; value: number; lot: string | null }
  }
}
