import { modelOf, type ReadingSource, tellsSignal } from '@frustum/core'
import Papa from 'papaparse'
import { checkEntry } from '../database/entryVersions.ts'
import type { Database } from '../database/open.ts'
import { exportRecords, type VisitRecord } from './exportRecords.ts'

/** One row a captured point, the visit's own columns repeated; visits without points have one row. */
export async function exportCsv(db: Database, id: string | null): Promise<string> {
  const { visits } = await exportRecords(db, id)
  const rows = visits.flatMap(rowsOf)
  const columns = [...new Set(rows.flatMap((r) => Object.keys(r)))]
  if (rows.length === 0) return ''
  // A cell that a spreadsheet would take for a formula is quoted as text.
  return Papa.unparse(rows, { columns, escapeFormulae: true })
}

function rowsOf(v: VisitRecord): Record<string, unknown>[] {
  const { setup, units, position, sensor } = v.snapshot
  const observed = (v.observations as ObservationLine[])[0]
  const common = {
    visit: v.id,
    closed_at: v.closedAt,
    position: position.code,
    serial_number: sensor.serialNumber,
    procedure: v.procedure,
    operator: v.operator,
    outcome: v.outcome,
    work: v.record?.work ?? '',
    as_found: observed?.asFound ?? '',
    as_left: observed?.verified ? observed.asLeft : '',
    as_left_from: observed ? (observed.verified ? 'read' : 'not verified') : '',
    uncertainty: observed?.uncertainty ?? '',
    fouling: observed?.fouling ?? '',
    error_unit: units.error,
    adjusted: observed ? observed.adjusted : '',
    judged_with: v.snapshot.known,
    corrections: (v.corrections as { text: string }[]).map((c) => c.text).join(' | '),
  }
  const labels = new Map(v.record?.points.map((p) => [p.seq, p.standard?.label ?? '']))
  const captured = (v.entries as CapturedLine[]).filter(
    ({ entry }) => entry.type === 'captured' && checkEntry(entry) === null,
  )
  if (captured.length === 0) return [common]
  return captured.map(({ seq, at, entry: { step, reading } }) => ({
    ...common,
    step,
    taken_at: at,
    source: reading.source ?? 'not-noted',
    signal: tellsSignal(setup, reading) ? reading.signal : '',
    signal_uncertainty: tellsSignal(setup, reading) ? reading.signalUncertainty : '',
    signal_unit: units.signal,
    shown: reading.shown ?? '',
    shown_unit: units.shown,
    temperature_c: reading.temperature,
    seconds: reading.stability.state === 'unknown' ? '' : reading.stability.seconds,
    early_reason: reading.earlyReason ?? '',
    standard: labels.get(seq) || (reading.standard?.code ?? ''),
    standard_value: reading.standard?.value ?? '',
    standard_unit: reading.standard ? modelOf(setup.kind).coreUnit : '',
    lot: reading.standard?.lot ?? '',
  }))
}

interface ObservationLine {
  asFound: number | null
  asLeft: number
  verified: boolean
  uncertainty: number
  fouling: number | null
  adjusted: boolean
}

interface CapturedLine {
  seq: number
  at: string
  entry: {
    type: string
    step: string
    reading: {
      source?: ReadingSource
      signal: number
      signalUncertainty: number
      shown: number | null
      temperature: number
      stability: { state: string; seconds: number }
      earlyReason?: string
      standard?: { code: string; value: number; lot: string | null }
    }
  }
}
