import { Link } from 'react-router'
import { useRigQuery } from '../../store/api.ts'
import { PutInUse } from './PutInUse.tsx'

interface AddedProps {
  position: string
  id: number
  /** The device that was there before; a new one is looked up. */
  device: number | null
}

/** A position is set up: on to its first visit, or to the next sensor. */
export function Added({ position, id, device }: AddedProps) {
  const { data: rig } = useRigQuery()
  const readBy = device ?? rig?.positions.find((p) => p.id === id)?.deviceId
  return (
    <div className="mx-auto w-full max-w-3xl px-5 py-8">
      <h1 className="text-2xl">{position} is set up</h1>
      <p className="pt-1 soft">Is the sensor in the water already?</p>
      <ul className="grid gap-4 py-5 sm:grid-cols-2">
        <li className="border border-[color:var(--line)] p-4">
          <p className="pb-4 text-pretty">It already works there. Its first visit is a check.</p>
          <PutInUse position={position} id={id} strong />
        </li>
        <li className="border border-[color:var(--line)] p-4">
          <p className="pb-4 text-pretty">It is new. Its first calibration is the baseline for all later ones.</p>
          <Link to={`/bench/start/${encodeURIComponent(position)}`} className="slant">
            Commission it
          </Link>
        </li>
      </ul>
      <p className="flex flex-wrap gap-x-6 gap-y-2">
        {readBy !== undefined && (
          <Link to={`/rig/add?device=${readBy}`} className="min-h-11 content-center underline underline-offset-4">
            Another sensor on the same device
          </Link>
        )}
        <Link to={`/rig/position/${id}/copy`} className="min-h-11 content-center underline underline-offset-4">
          Copy sensor
        </Link>
        <Link to="/" className="min-h-11 content-center underline underline-offset-4">
          Later: to Rounds
        </Link>
      </p>
    </div>
  )
}
