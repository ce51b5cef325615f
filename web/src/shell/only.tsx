import type { Role } from '@frustum/core'
import type { ComponentType } from 'react'
import { Link } from 'react-router'
import { useMay } from '../store/me.ts'

const WORDS: Readonly<Record<Role, string>> = {
  viewer: 'Sign in to see this.',
  operator: 'You may look at everything here, and record nothing. A lead can change that under Rig, People.',
  lead: 'Only a lead may set up sensors, rules and people. By PIN nobody is a lead: sign in with your password for it.',
}

/** A page for people of a role; others are told who may, before they have typed anything. */
export function only(role: Role, Page: ComponentType): ComponentType {
  return function Only() {
    if (useMay(role)) return <Page />
    return (
      <div className="mx-auto w-full max-w-3xl space-y-4 px-5 py-8">
        <h1 className="text-2xl">This is for {role === 'lead' ? 'leads' : `${role}s`}</h1>
        <p className="max-w-prose text-lg text-pretty">{WORDS[role]}</p>
        <Link to="/" className="slant">
          Rounds
        </Link>
      </div>
    )
  }
}

/** Why a viewer finds nothing to press. */
export function ViewOnly() {
  if (useMay('operator')) return null
  return (
    <p role="status" className="no-print border-b border-base-300 bg-base-200 px-5 py-2 text-sm">
      View only. A lead can give you another role under People.
    </p>
  )
}
