import { Link } from 'react-router'

/** An empty folder: three ways in. */
export function FirstRun() {
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-8">
      <h1 className="text-3xl">Nothing is here yet</h1>
      <p className="max-w-prose pt-2 text-lg soft">
        Frustum keeps installed sensors true: it takes you through each calibration, and says when the next one is due.
        How do you want to begin?
      </p>
      <ul className="grid gap-5 pt-6 lg:grid-cols-3">
        <Door
          title="Set up your site"
          action={
            <Link to="/set-up" className="slant slant-strong min-h-14 text-xl">
              Set it up
            </Link>
          }
        >
          Its name, yours, and the first sensor. Three minutes, then you calibrate it. All of it can be changed later.
        </Door>
        <Door
          title="Bring in what you have"
          action={
            <Link to="/bring" className="slant">
              Bring it in
            </Link>
          }
        >
          A list of your sensors from a spreadsheet (CSV or XLSX), or records of another Frustum. You see what becomes
          of each row before anything is written.
        </Door>
        <Door
          title="Put back a backup"
          action={
            <Link to="/put-back" className="slant">
              Put it back
            </Link>
          }
        >
          A backup of a site, from another machine or from before this one failed. All of it comes back as it was,
          people and open visits too.
        </Door>
      </ul>
      <p className="max-w-prose pt-8 text-pretty">
        Only looking? <code className="font-mono">npm run demo</code> shows an invented shore station with 18 months of
        visits and sensors to practise on. It runs beside this one, in a folder of its own.
      </p>
    </div>
  )
}

function Door({ title, action, children }: { title: string; action: React.ReactNode; children: React.ReactNode }) {
  return (
    <li className="flex flex-col justify-between gap-5 border border-[color:var(--line)] p-5">
      <div>
        <h2 className="text-xl">{title}</h2>
        <p className="pt-2 text-pretty">{children}</p>
      </div>
      <div>{action}</div>
    </li>
  )
}
