import type { TakenFile } from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { dayTime } from '../../components/format.ts'
import { useSiteQuery, useTakenFilesQuery } from '../../store/api.ts'

const WORDS: Record<TakenFile['what'], string> = {
  sensors: 'list of sensors',
  past: 'past calibrations',
  records: 'records',
  'set-up': 'set-up',
  log: 'log of readings',
}

/** What was brought in before, and what became of each file. */
export function TakenFiles() {
  const { data: files = [] } = useTakenFilesQuery(undefined, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  if (files.length === 0 || !site) return null
  return (
    <section className="mt-8 border-t border-base-300 pt-4" aria-label="Brought in before">
      <h2 className="text-lg">Brought in before</h2>
      <ul>
        {files.map((f) => (
          <li
            key={f.id}
            className="flex flex-wrap items-baseline justify-between gap-x-6 border-b border-base-300 py-1.5"
          >
            <span className="min-w-0">
              <strong className="break-all">{f.fileName || 'A file'}</strong>, {WORDS[f.what]}
              <span className="block text-sm soft">
                {dayTime(f.at, site.timeZone)}
                {f.operator && `, ${f.operator}`}: {counted(f)}
              </span>
            </span>
            <a
              href={addressOf(ENDPOINTS.takenFileReport, { id: String(f.id) })}
              download
              aria-label={`Report of ${f.fileName || 'the file'}`}
              className="min-h-11 content-center underline underline-offset-4"
            >
              Report
            </a>
          </li>
        ))}
      </ul>
    </section>
  )
}

const counted = ({ counts }: TakenFile) =>
  Object.entries(counts)
    .filter(([, count]) => count > 0)
    .map(([what, count]) => `${count} ${what}`)
    .join(', ') || 'nothing new'
