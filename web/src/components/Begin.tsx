import { Link } from 'react-router'
import { useSiteQuery } from '../store/api.ts'
import { For } from './For.tsx'

/** In place of a room that has nothing to show yet: what goes there, and the way to begin. */
export function Begin({ room, children }: { room: string; children: string }) {
  const { data: site } = useSiteQuery()
  return (
    <div className="mx-auto w-full max-w-3xl space-y-4 px-5 py-8">
      <h1 className="text-2xl">{room}</h1>
      <p className="max-w-prose text-lg text-pretty">{children}</p>
      <For needs="lead">
        <Link to={site?.exists ? '/rig/add' : '/set-up'} className="slant slant-strong">
          {site?.exists ? 'Add a sensor' : 'Set up your site'}
        </Link>
      </For>
    </div>
  )
}
