import type { RigView } from '@frustum/contract'
import { Navigate, useLocation, useParams, useSearchParams } from 'react-router'
import { Fetching } from '../../components/Problem.tsx'
import { useRigQuery, useSiteQuery } from '../../store/api.ts'
import { CopySensors } from './CopySensors.tsx'
import { NewSensor } from './NewSensor.tsx'
import { NewSite } from './NewSite.tsx'

/** From nothing to a sensor that can be calibrated: first the site, then the sensor. */
export function SetUp() {
  const { data: site, error, refetch } = useSiteQuery()
  if (!site) return <Fetching what="the site" error={error} onRetry={refetch} />
  return site.exists ? <Navigate to="/rig/add" replace /> : <NewSite />
}

/** Another sensor: a new one, or on a device that exists. */
export function AddSensor() {
  const [search] = useSearchParams()
  // Each way in is a new one, also the same a second time.
  const { key } = useLocation()
  const { data: site } = useSiteQuery()
  const { data: rig, error, refetch } = useRigQuery(undefined, { refetchOnMountOrArgChange: true })
  if (!rig || !site) return <Fetching what="the site" error={error} onRetry={refetch} />
  if (!site.exists) return <Navigate to="/set-up" replace />
  const kept = rig.templates.find((t) => String(t.id) === search.get('template'))
  const device = rig.devices.find((d) => String(d.id) === search.get('device'))
  const beside = device && rig.positions.find((p) => p.deviceId === device.id)
  return (
    <NewSensor
      key={key}
      rig={rig}
      begin={{
        stage: 'what',
        ...(kept ? { ...kept.values, template: kept.name, kind: kept.kind, water: kept.water ?? '' } : {}),
        ...(beside
          ? { placeName: placeOf(rig, beside.placeId), spot: beside.spot, water: beside.water ?? '' }
          : { placeName: rig.places.findLast((p) => !p.archived)?.name ?? '' }),
        device: device ? String(device.id) : '',
      }}
    />
  )
}

const placeOf = (rig: RigView, id: number) => rig.places.find((p) => p.id === id)?.name ?? ''

/** A copy of the sensor, the device or the place in the address. */
export function CopyThing() {
  const { subject, id } = useParams()
  const { data: rig, error, refetch } = useRigQuery(undefined, { refetchOnMountOrArgChange: true })
  if (!rig) return <Fetching what="the site" error={error} onRetry={refetch} />
  const isOf = ({ id: own, deviceId, placeId }: RigView['positions'][number]) =>
    String(subject === 'device' ? deviceId : subject === 'place' ? placeId : own) === id
  const originals = rig.positions.filter((p) => !p.archived && isOf(p))
  const named = (subject === 'device' ? rig.devices : rig.places).find((t) => String(t.id) === id)?.name
  const of = subject === 'position' ? originals[0]?.code : named
  if (originals.length === 0 || of === undefined)
    return (
      <Fetching what="sensors" error={{ data: { message: 'There is no sensor to copy here.' } }} onRetry={refetch} />
    )
  return <CopySensors rig={rig} of={of} originals={originals} />
}
