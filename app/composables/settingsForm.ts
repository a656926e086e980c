import { computed } from 'vue'
import type { z } from 'zod'
import { contract } from '~~/contract'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'

type Changes = z.input<NonNullable<typeof contract.setup.changeSettings.body>>

/** What the forms of Setup share: who may change, saving a part of the settings, what was wrong with it. */
export function useSettingsForm() {
  const session = useSession()
  const { trouble, guard } = useGuard()
  const may = computed(() => session.can('policy.edit'))
  const save = (changes: Changes, told = 'Settings saved.') =>
    guard(async () => {
      session.settings = await call(contract.setup.changeSettings, { body: changes })
    }, told)
  return { settings: session.settings!, session, may, trouble, guard, save }
}
