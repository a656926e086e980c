import { computed, nextTick, onScopeDispose, ref, watch, type WatchSource } from 'vue'
import type { Proof } from '~~/contract/receipts'
import { expectProof } from '~/composables/typeAhead'
import { ApiProblem, problemText } from '~/utils/api'

/** Keeps a Proof in step with what is being entered. `ask` answers null while there is nothing to prove. */
export function useProof(ask: () => Promise<Proof> | null, sources: WatchSource[]) {
  const proof = ref<Proof | null>(null)
  const trouble = ref('')
  const pending = ref(false)
  let asked = 0
  /** Whoever posts before the Proof stands posts when it does, unless it asks to look twice. */
  let stands: ReturnType<typeof expectProof> | undefined
  onScopeDispose(() => stands?.())
  watch(
    sources,
    async () => {
      const mine = ++asked
      pending.value = true
      stands ??= expectProof()
      await new Promise(resolve => setTimeout(resolve, 140))
      if (mine !== asked) return
      const question = ask()
      try {
        const answer = question && (await question)
        if (mine !== asked) return
        proof.value = answer
        trouble.value = ''
      } catch (error) {
        if (mine !== asked) return
        proof.value = null
        trouble.value =
          error instanceof ApiProblem && error.problem.errors?.[0]
            ? error.problem.errors[0].message
            : problemText(error)
      } finally {
        if (mine === asked) {
          pending.value = false
          const mayGoOn = !proof.value?.warnings?.length
          const release = stands
          stands = undefined
          await nextTick()
          release?.(mayGoOn)
        }
      }
    },
    { immediate: true, deep: true },
  )
  /** What is on the screen is proved: it may be posted. */
  const ready = computed(() => !pending.value && Boolean(proof.value?.ok))
  return { proof, trouble, pending, ready }
}
