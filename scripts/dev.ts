import { spawn } from 'node:child_process'

/** Server with reload, and the web's own server with its hot reload, on the demo's data. */
const children = [
  spawn('npx', ['tsx', 'watch', 'scripts/demo.ts'], { stdio: 'inherit', env: { ...process.env, PORT: '4170' } }),
  spawn('npm', ['run', 'dev', '--workspace', 'web'], { stdio: 'inherit' }),
]
const stop = () => {
  for (const child of children) child.kill('SIGTERM')
}
process.on('SIGINT', stop)
process.on('SIGTERM', stop)
for (const child of children) child.once('exit', stop)
