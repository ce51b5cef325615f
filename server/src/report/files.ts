import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import type { ReportView } from '@frustum/contract'
import Papa from 'papaparse'
import type { Content, TDocumentDefinitions } from 'pdfmake/interfaces.js'
import { PROGRAM_VERSION } from '../version.ts'
import { cellText, lastDay, type ReportTable, reportTables, timeText } from './tables.ts'

/** A report as files: to print and file, and to compute with. */

/**
 * All tables below each other, each with its title before it. Figures stand as numbers, with their unit at the end of the
 * row; a text that a spreadsheet would take for a formula is quoted.
 */
export function reportCsv(report: ReportView): string {
  const rows = reportTables(report).flatMap(({ title, columns, rows: lines }) => {
    const measured = lines.some((line) => line.some((cell) => typeof cell === 'object'))
    return [[title], measured ? [...columns, 'Unit'] : columns, ...lines.map((line) => lineOf(line, measured)), []]
  })
  return Papa.unparse(rows as (string | number)[][], { escapeFormulae: true })
}

function lineOf(line: ReportTable['rows'][number], measured: boolean): (string | number)[] {
  const units = line.flatMap((cell) => (typeof cell === 'object' ? [cell.unit] : []))
  const cells = line.map((cell) => (typeof cell === 'object' ? Number(cell.value.toFixed(cell.decimals)) : cell))
  return measured ? [...cells, units[0] ?? ''] : cells
}

export async function reportPdf(report: ReportView): Promise<Buffer> {
  // Large, and few ask for it.
  const { default: pdfmake } = await import('pdfmake')
  const fonts = join(dirname(createRequire(import.meta.url).resolve('pdfmake/package.json')), 'fonts', 'Roboto')
  const face = (style: string) => join(fonts, `Roboto-${style}.ttf`)
  pdfmake.setFonts({
    Roboto: {
      normal: face('Regular'),
      bold: face('Medium'),
      italics: face('Italic'),
      bolditalics: face('MediumItalic'),
    },
  })
  // Nothing is fetched for it, nor read but its fonts.
  pdfmake.setUrlAccessPolicy(() => false)
  pdfmake.setLocalAccessPolicy((path) => path.startsWith(fonts))
  return pdfmake.createPdf(documentOf(report)).getBuffer()
}

const RULE = '#c9bfae'

function documentOf(report: ReportView): TDocumentDefinitions {
  const { site, timeZone, madeAt } = report
  const title = `Sensors of ${site}`
  return {
    info: { title, creator: `Frustum ${PROGRAM_VERSION}`, creationDate: new Date(madeAt) },
    pageSize: 'A4',
    pageOrientation: 'landscape',
    pageMargins: [36, 40, 36, 40],
    defaultStyle: { fontSize: 8, color: '#2b1a2e' },
    footer: (page, pages) => ({
      margin: [36, 8],
      columns: [
        { text: `${title}, made ${timeText(madeAt, timeZone)} (${timeZone}) by Frustum ${PROGRAM_VERSION}` },
        { text: `${page} of ${pages}`, alignment: 'right' },
      ],
      fontSize: 7,
    }),
    content: [
      { text: title, fontSize: 18, bold: true },
      {
        text: `Status on ${lastDay(report.on, timeZone)}; what happened from ${timeText(report.from, timeZone).slice(0, -6)} to ${lastDay(report.to, timeZone)}. Visits stand as their records say, with the tolerances that held then; errors are displayed minus true.`,
        margin: [0, 4, 0, 0],
      },
      ...reportTables(report).flatMap(tableOf),
    ],
  }
}

function tableOf({ title, none, columns, rows }: ReportTable): Content[] {
  const heading: Content = { text: title, fontSize: 12, bold: true, margin: [0, 16, 0, 4], headlineLevel: 1 }
  if (rows.length === 0) return [heading, { text: none }]
  return [
    heading,
    {
      layout: {
        hLineWidth: (i) => (i === 1 ? 1 : 0.5),
        vLineWidth: () => 0,
        hLineColor: () => RULE,
        paddingLeft: () => 0,
        paddingRight: () => 8,
      },
      table: {
        headerRows: 1,
        // A row stands on one page.
        dontBreakRows: true,
        widths: columns.map(() => 'auto'),
        body: [
          columns.map((text) => ({ text, bold: true })),
          ...rows.map((row) => row.map(cellText).map((text) => ({ text, bold: /OUTSIDE|OVERDUE/.test(text) }))),
        ],
      },
    },
  ]
}
