import { SHEETS, type Sheet } from '@frustum/core/reckoner'
import { Navigate, NavLink, useNavigate, useParams } from 'react-router'
import { SheetView } from './SheetView.tsx'

const GROUPS = [...new Set(SHEETS.map((s) => s.group))]
const path = (sheet: Sheet) => `/reckoner/${sheet.id}`

/** One number, worked out: pick what you have and what you want. */
export function ReckonerRoom() {
  const { sheet: id } = useParams()
  const navigate = useNavigate()
  const sheet = SHEETS.find((s) => s.id === id)
  if (!sheet) return <Navigate to={path(SHEETS[0] as Sheet)} replace />
  return (
    <div className="flex flex-1 flex-col lg:flex-row">
      <nav aria-label="Sheets" className="no-print hidden w-64 shrink-0 border-r border-base-300 py-3 lg:block">
        {GROUPS.map((group) => (
          <section key={group}>
            <h2 className="px-5 pt-2 pb-1 text-sm font-normal soft">{group}</h2>
            <ul>
              {SHEETS.filter((s) => s.group === group).map((s) => (
                <li key={s.id}>
                  <NavLink
                    to={path(s)}
                    className={({ isActive }) =>
                      `flex min-h-9 items-center px-5 py-1 leading-tight ${isActive ? 'room-here font-bold' : 'hover:bg-base-200'}`
                    }
                  >
                    {s.title}
                  </NavLink>
                </li>
              ))}
            </ul>
          </section>
        ))}
      </nav>
      <label className="no-print block px-5 pt-4 lg:hidden">
        <span className="text-sm soft">Work out</span>
        <select
          className="min-h-11 w-full bg-base-200 px-2 font-bold"
          value={sheet.id}
          onChange={(e) => void navigate(`/reckoner/${e.target.value}`)}
        >
          {GROUPS.map((group) => (
            <optgroup key={group} label={group}>
              {SHEETS.filter((s) => s.group === group).map((s) => (
                <option key={s.id} value={s.id}>
                  {s.title}
                </option>
              ))}
            </optgroup>
          ))}
        </select>
      </label>
      <div className="mx-auto w-full max-w-6xl min-w-0 px-5 py-5 lg:px-8">
        <SheetView key={sheet.id} sheet={sheet} />
      </div>
    </div>
  )
}
