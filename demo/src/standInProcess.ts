import { startPostOffice, startStandIns } from '@frustum/lab/stand-ins'
import { fleet, POST_KEY } from './pellwick.ts'
import { standInUnits } from './standIns.ts'

/** The stand-in transmitters as a process of their own: devices are not to share a thread with who asks them. */
const server = await startStandIns(standInUnits(fleet()))
const office = await startPostOffice(POST_KEY)
const { port, broker, pages } = server
// One message for whoever started this process: where to find them.
process.send?.({ port, broker, pages, post: { mail: office.mail, hooks: office.hooks } })
// Where the logger is to send to is known once the server is there.
process.on('message', ({ logTo }: { logTo: string }) => server.startLogger(logTo))

const stop = () => Promise.all([server.close(), office.close()]).then(() => process.exit(0))
process.on('SIGTERM', stop)
process.on('SIGINT', stop)
// A stand-in must not outlive the program that started it.
process.on('disconnect', stop)
if (!process.connected) await stop()
