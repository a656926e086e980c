import { ref, watch, type Ref } from 'vue'

/**
 * Which part of a page is shown, and of which customer (empty: of all); kept in the address, so that it can
 * be sent on and gone back to. `first` is shown when the address names no part of the page.
 */
export function usePart<P extends string>(parts: Record<P, string>, first: NoInfer<P>) {
  const route = useRoute()
  const router = useRouter()
  const asked = String(route.query.part ?? '')
  const part = ref(Object.hasOwn(parts, asked) ? asked : first) as Ref<P>
  const customer = ref(String(route.query.customer ?? ''))
  watch([part, customer], () => {
    const kept = { ...route.query, part: part.value, customer: customer.value || undefined }
    void router.replace({ query: kept })
  })
  return { part, customer }
}
