import { defineStore } from 'pinia'
import { contract } from '~~/contract'
import type { Session } from '~~/contract/people'
import type { SettingsAnswer } from '~~/contract/setup'
import type { Ability } from '~~/core/people'
import { call } from '~/utils/api'
import { house } from '~/utils/format'

/** Who is signed in, what they may do, and the settings every screen shows. */
export const useSession = defineStore('session', {
  state: () => ({ session: null as Session | null, settings: null as SettingsAnswer | null }),
  getters: {
    today: s => s.settings?.today ?? '',
    base: s => s.settings?.base ?? 'EUR',
  },
  actions: {
    can(ability: Ability): boolean {
      return this.session?.abilities.includes(ability) ?? false
    },
    async readSettings(): Promise<void> {
      this.settings = await call(contract.setup.settings)
      house.timeZone = this.settings.timeZone
    },
    async load(): Promise<boolean> {
      try {
        this.session = await call(contract.people.session)
      } catch {
        this.session = null
        return false
      }
      if (this.session.mustChange) return false
      await this.readSettings()
      return true
    },
    async signIn(email: string, password: string): Promise<void> {
      this.session = await call(contract.people.signIn, { body: { email, password } })
      if (!this.session.mustChange) await this.readSettings()
    },
    /** A first password of one's own; only then does the server answer anything else. */
    async choosePassword(current: string, password: string): Promise<void> {
      await call(contract.people.changePassword, { body: { current, password } })
      await this.load()
    },
    async signOut(): Promise<void> {
      await call(contract.people.signOut)
      // The page is loaded anew: nothing that was read stays in its memory.
      window.location.assign('/sign-in')
    },
    async advance(): Promise<void> {
      await call(contract.setup.advance)
      await this.readSettings()
    },
  },
})
