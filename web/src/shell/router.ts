import { createRouter, createWebHistory } from 'vue-router'
import { useSession } from './session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'library', component: () => import('@/library/LibraryPage.vue') },
    { path: '/sign-in', name: 'sign-in', component: () => import('./SignInPage.vue') },
    { path: '/draft/:id', name: 'draft', component: () => import('@/workspace/WorkspacePage.vue'), props: true },
    { path: '/analysis/:id', name: 'analysis', component: () => import('@/library/OpenAnalysis.vue'), props: true },
    {
      path: '/analysis/:id/table',
      name: 'table',
      component: () => import('@/library/OpenAnalysis.vue'),
      props: (to) => ({ id: String(to.params.id), asTable: true }),
    },
    { path: '/see/:id', name: 'view', component: () => import('@/library/OpenView.vue'), props: true },
    { path: '/welcome/:token', name: 'welcome', component: () => import('./WelcomePage.vue'), props: true },
    { path: '/sessions', name: 'sessions', component: () => import('./SessionsPage.vue') },
    {
      path: '/administration/:part?',
      name: 'administration',
      component: () => import('@/admin/AdministrationPage.vue'),
      props: (to) => ({ part: String(to.params.part || 'people') }),
    },
    {
      path: '/model/:name/:room?',
      name: 'model',
      component: () => import('@/modelling/ModellingPage.vue'),
      props: (to) => ({ name: String(to.params.name), room: String(to.params.room || 'plan') }),
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})

router.beforeEach(async (to) => {
  if (to.name === 'sign-in' || to.name === 'welcome' || (await useSession().resume())) return true
  return { name: 'sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } }
})
