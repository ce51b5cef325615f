import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { usePutInUseMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'

/** For a sensor that is in the water already: it is added to Frustum, and its first visit is a check. */
export function PutInUse({ position, id, strong = false }: { position: string; id: number; strong?: boolean }) {
  const navigate = useNavigate()
  const [putInUse, { isLoading }] = usePutInUseMutation()
  const { operator } = useAppSelector(actorOf)
  const press = async () => {
    const answer = await putInUse({ id: String(id), operator, serial: '', model: '' })
    if (answer.data) void navigate(`/bench/start/${encodeURIComponent(position)}`)
    else toast.error(problemOf(answer.error).message)
  }
  return (
    <button
      type="button"
      className={strong ? 'slant slant-strong' : 'slant'}
      disabled={isLoading}
      onClick={() => void press()}
    >
      Already in use: check it
    </button>
  )
}
