import qrcode from 'qrcode-generator'
import { Link } from 'react-router'
import { calendarDay, day } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { standardLabel } from '../../components/standardLabel.ts'
import { useShelfQuery, useSiteQuery } from '../../store/api.ts'

/** Labels to print and stick on: what it is, until when, and a code that a phone's camera opens. */
export function LabelsPage() {
  const { data: shelf, error, refetch } = useShelfQuery()
  const { data: site } = useSiteQuery()
  if (!shelf || !site) return <Fetching what="the labels" error={error} onRetry={refetch} />
  const lots = shelf.lots.filter((l) => l.state === 'good' || l.state === 'ending')
  return (
    <div className="px-5 py-5">
      <div className="no-print flex flex-wrap items-center gap-5 pb-5">
        <h1 className="text-2xl">Labels</h1>
        <button type="button" className="slant slant-strong" onClick={() => window.print()}>
          Print them
        </button>
        <Link to="/shelf" className="slant slant-plain">
          Back to the Shelf
        </Link>
      </div>
      <ul className="flex flex-wrap gap-4">
        {lots.map((lot) => (
          <li
            key={lot.id}
            className="flex h-[42mm] w-[85mm] break-inside-avoid gap-3 border border-[color:var(--line)] p-[3mm]"
          >
            <Code text={`${location.origin}/shelf?lot=${encodeURIComponent(lot.lot)}`} />
            <div className="flex min-w-0 flex-1 flex-col gap-0.5 text-[0.8rem] leading-tight">
              <strong className="line-clamp-2">{standardLabel(lot.standard)}</strong>
              <span>
                lot <span className="font-mono">{lot.lot}</span>
              </span>
              <span>expires {calendarDay(lot.expiresOn)}</span>
              <span>
                {lot.openedOn ? `opened ${day(lot.openedOn, site.timeZone)}` : 'opened on ____________'}, keeps{' '}
                {lot.keepsDays} d
              </span>
              <span className="mt-auto text-xs">
                {lot.storage}. {site.name}
              </span>
            </div>
          </li>
        ))}
      </ul>
    </div>
  )
}

function Code({ text }: { text: string }) {
  const code = qrcode(0, 'M')
  code.addData(text)
  code.make()
  const size = code.getModuleCount()
  const path = Array.from({ length: size * size }, (_, i) => [i % size, Math.floor(i / size)] as const)
    .filter(([x, y]) => code.isDark(y, x))
    .map(([x, y]) => `M${x} ${y}h1v1h-1z`)
    .join('')
  return (
    <svg
      viewBox={`-2 -2 ${size + 4} ${size + 4}`}
      className="size-[30mm] shrink-0 self-center bg-white"
      role="img"
      aria-label="QR code of the lot"
    >
      <path d={path} fill="#000" />
    </svg>
  )
}
