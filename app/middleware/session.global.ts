import { useSession } from '~/stores/session'

export default defineNuxtRouteMiddleware(async to => {
  const session = useSession()
  if (to.path === '/sign-in') return
  const isIn = session.session && !session.session.mustChange
  if (!isIn && !(await session.load()))
    return navigateTo({ path: '/sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } })
})
