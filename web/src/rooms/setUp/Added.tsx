import { Link, useNavigate } from 'react-router'
import { toast } from 'sonner'
import { problemOf, usePutInUseMutation, useRigQuery } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'

interface AddedProps {
  position: string
  id: number
  /** The device that was there before; a new one is looked up. */
  device: number | null
}

/** A position is set up: on to its first visit, or to the next sensor. */
export function Added({ position, id, device }: AddedProps) {
  const navigate = useNavigate()
  const [putInUse, { isLoading }] = usePutInUseMutation()
  const { data: rig } = useRigQuery()
  const { operator } = useAppSelector(actorOf)
  const readBy = device ?? rig?.positions.find((p) => p.id === id)?.deviceId
  const takeOn = async () => {
    const answer = await putInUse({ id: String(id), operator, serial: '', model: '' })
    if (answer.data) void navigate(`/bench/start/${encodeURIComponent(position)}`)
    else toast.error(problemOf(answer.error).message)
  }
  return (
    <div className="mx-auto w-full max-w-3xl px-5 py-8">
      <h1 className="text-2xl">{position} is set up</h1>
      <p className="pt-1 soft">Is the sensor in the water already?</p>
      <ul className="grid gap-4 py-5 sm:grid-cols-2">
        <li className="border border-[color:var(--line)] p-4">
          <p className="pb-4 text-pretty">
            It works there already, whenever it was last calibrated. Nothing is believed of it before it was checked.
          </p>
          <button type="button" className="slant slant-strong" disabled={isLoading} onClick={() => void takeOn()}>
            It is in use: check it first
          </button>
        </li>
        <li className="border border-[color:var(--line)] p-4">
          <p className="pb-4 text-pretty">
            It is new. Its first calibration is what all later ones are measured against.
          </p>
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
        <Link to={`/rig/add?like=${id}`} className="min-h-11 content-center underline underline-offset-4">
          Another like this
        </Link>
        <Link to="/" className="min-h-11 content-center underline underline-offset-4">
          Later: to Rounds
        </Link>
      </p>
    </div>
  )
}
