import { useSession } from '~/stores/session'

export default defineNuxtRouteMiddleware(async to => {
  const session = useSession()
  if (to.path === '/sign-in') return
  if (!session.session && !(await session.load()))
    return navigateTo({ path: '/sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } })
})
