import { X509Certificate } from 'node:crypto'
import express, { type Express } from 'express'
import helmet from 'helmet'
import type { Config } from '../config.ts'
import { refuseForeignHost } from '../http/ownNames.ts'
import { Problem } from '../problem.ts'
import { type Certificates, fingerprintOf } from './certificates.ts'

const AUTHORITY_FILE = '/frustum-authority.crt'

/** What is answered without encryption: the way to the encrypted pages, and what makes a phone trust them. Nothing else. */
export function welcome(config: Pick<Config, 'host' | 'names'>, site: string, { authority }: Certificates): Express {
  const app = express()
  app.disable('x-powered-by')
  app.use(
    helmet({
      contentSecurityPolicy: { directives: { 'style-src': ["'unsafe-inline'"], 'upgrade-insecure-requests': null } },
      strictTransportSecurity: false,
    }),
  )
  app.use(refuseForeignHost(config))
  if (authority) {
    app.get(AUTHORITY_FILE, (_req, res) => {
      res.type('application/x-x509-ca-cert').send(new X509Certificate(authority).raw)
    })
    app.get('/', (req, res) => {
      res.type('html').send(page(site, `https://${req.get('host')}/`, fingerprintOf(authority)))
    })
  }
  app.use((req, res) => {
    res.redirect(302, `https://${req.get('host')}${req.url}`)
  })
  app.use(((error, _req, res, _next) => {
    const status = error instanceof Problem ? error.status : 400
    res
      .status(status)
      .type('text')
      .send(error instanceof Problem ? error.message : 'The request cannot be read.')
  }) as express.ErrorRequestHandler)
  return app
}

const escaped = (text: string): string =>
  text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c] ?? c)

const STYLE = `
  :root { color-scheme: light dark; }
  body { margin: 0 auto; max-width: 40rem; padding: 1.5rem 1.25rem 3rem; background: #fcf8f1; color: #2b1a2e;
    font: 1.125rem/1.5 system-ui, sans-serif; }
  h1 { font-size: 1.6rem; margin: 0.5rem 0; } h2 { font-size: 1.2rem; margin: 1.75rem 0 0.25rem; }
  a.plate { display: inline-block; transform: skewX(-8deg); background: #5b2a5e; color: #fff; padding: 0.9rem 2rem;
    font-weight: 700; text-decoration: none; margin: 0.75rem 0.5rem 0.25rem; }
  a.plate.quiet { background: #e9ddea; color: #2b1a2e; }
  a.plate span { display: inline-block; transform: skewX(8deg); }
  li { margin: 0.35rem 0; } code { overflow-wrap: anywhere; font-size: 0.9rem; }
  @media (prefers-color-scheme: dark) { body { background: #241a26; color: #f4ecdf; }
    a.plate { background: #d9b8dc; color: #241a26; } a.plate.quiet { background: #4a394d; color: #f4ecdf; } }
`

function page(site: string, address: string, fingerprint: string): string {
  return `<!doctype html>
<html lang="en">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>Frustum of ${escaped(site)}</title><style>${STYLE}</style></head>
<body>
<h1>Frustum of ${escaped(site)}</h1>
<p>This page is not encrypted. Sign in on the encrypted one only.</p>
<p><a class="plate" href="${escaped(address)}"><span>Go on, encrypted</span></a></p>
<h2>The first time on this device</h2>
<p>The browser warns that it does not know who certified the page. Tell it once: take the certificate, then trust it.
It is good for this server alone, and for addresses within private networks.</p>
<p><a class="plate quiet" href="${AUTHORITY_FILE}" download><span>Take the certificate</span></a></p>
<p>Compare its SHA-256 with what the server printed when it started:<br><code>${fingerprint}</code></p>
<h2>On a phone or tablet that takes it as a profile</h2>
<ol><li>Take the certificate with the built-in browser, and allow the profile.</li>
<li>In the settings, under device management, install the profile.</li>
<li>In the settings, search for "certificate trust", and switch it on for this one.</li></ol>
<h2>On a phone or tablet that takes it as a file</h2>
<ol><li>Take the certificate.</li>
<li>In the settings, search for "CA certificate", and install it from the file. The warning says what any authority
could do; this one is bounded to private networks.</li></ol>
<h2>On a computer</h2>
<ol><li>Open the certificate and put it among the trusted root authorities. A browser with a list of its own takes it
under its settings for certificates, for websites.</li></ol>
<h2>To remove it</h2>
<p>Delete it in the same place: the profile, the user credential, the root authority. Do so when the device leaves the
site.</p>
</body></html>`
}
