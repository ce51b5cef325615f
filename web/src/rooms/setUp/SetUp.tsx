import type { RigView } from '@frustum/contract'
import { Navigate, useLocation, useSearchParams } from 'react-router'
import { Fetching } from '../../components/Problem.tsx'
import { useRigQuery, useSiteQuery, useThingQuery } from '../../store/api.ts'
import { NewSensor } from './NewSensor.tsx'
import { NewSite } from './NewSite.tsx'

/** From nothing to a sensor that can be calibrated: first the site, then the sensor. */
export function SetUp() {
  const { data: site, error, refetch } = useSiteQuery()
  if (!site) return <Fetching what="the site" error={error} onRetry={refetch} />
  return site.exists ? <Navigate to="/rig/add" replace /> : <NewSite />
}

/** A sensor more: from nothing, on a device that is there, or like another one. */
export function AddSensor() {
  const [search] = useSearchParams()
  // Each way in is a new one, also the same a second time.
  const { key } = useLocation()
  const { data: site } = useSiteQuery()
  const { data: rig, error, refetch } = useRigQuery(undefined, { refetchOnMountOrArgChange: true })
  if (!rig || !site) return <Fetching what="the site" error={error} onRetry={refetch} />
  if (!site.exists) return <Navigate to="/set-up" replace />
  const like = rig.positions.find((p) => String(p.id) === search.get('like'))
  if (like) return <LikeAnother key={key} rig={rig} position={like} />
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

function LikeAnother({ rig, position }: { rig: RigView; position: RigView['positions'][number] }) {
  const { data: rules, error } = useThingQuery({ subject: 'position', id: String(position.id) })
  const { data: device } = useThingQuery({ subject: 'device', id: String(position.deviceId) })
  if (!rules || !device) return <Fetching what={position.code} error={error} onRetry={() => undefined} />
  const { code: _, placeId: __, deviceId: ___, ...like } = rules.values
  const { name: _n, serial: _s, ...settings } = device.values
  return (
    <NewSensor
      rig={rig}
      begin={{
        stage: 'rules',
        kind: position.kind,
        ...settings,
        ...like,
        water: position.water ?? 'freshwater',
        placeName: placeOf(rig, position.placeId),
        device: '',
      }}
    />
  )
}
