import { createRouter, createWebHistory } from 'vue-router'
import { monthBefore } from '@axion/core'
import { useSession } from './session.ts'

const MONTH = '(\\d{4}-\\d{2})'

/** Addresses: /{entity}/{month}/{stage}/{view}?…, with the whole state of a view in it. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'home', redirect: { name: 'practice' } },
    { path: '/practice', name: 'practice', component: () => import('../practice/PracticePage.vue') },
    {
      path: '/practice/trail',
      name: 'practice-trail',
      component: () => import('../audit/PracticeTrailPage.vue'),
    },
    {
      path: '/practice/found',
      name: 'found',
      component: () => import('../practice/FoundPage.vue'),
    },
    { path: '/first/:link', name: 'first', component: () => import('../people/FirstPage.vue') },
    { path: '/account', name: 'account', component: () => import('../people/AccountPage.vue') },
    {
      path: '/invitation/:link',
      name: 'invitation',
      component: () => import('../connect/InvitationPage.vue'),
    },
    { path: '/sign-in', name: 'sign-in', component: () => import('../people/SignIn.vue') },
    {
      path: `/:entity/:month${MONTH}`,
      component: () => import('./AppShell.vue'),
      children: [
        { path: '', name: 'close', component: () => import('../close/CloseSheet.vue') },
        { path: 'connect', name: 'connect', component: () => import('../connect/ConnectPage.vue') },
        {
          path: 'align/:kind(rates|agencies|codes|items|parties|accounts|methods|locations|dimensions)',
          name: 'align',
          component: () => import('../align/AlignPage.vue'),
        },
        {
          path: 'align/opening',
          name: 'opening',
          component: () => import('../align/opening/OpeningPage.vue'),
        },
        {
          path: 'align/registrations',
          name: 'registrations',
          component: () => import('../align/registrations/RegistrationsPage.vue'),
        },
        {
          path: 'align/decisions',
          name: 'decisions',
          component: () => import('../align/decisions/DecisionsPage.vue'),
        },
        {
          path: 'align/copied',
          name: 'copied',
          component: () => import('../align/copied/CopiedPage.vue'),
        },
        {
          path: 'align/baseline/:kind?',
          name: 'baseline',
          component: () => import('../align/baseline/BaselinePage.vue'),
        },
        { path: 'align/sale', name: 'sale', component: () => import('../align/sale/SalePage.vue') },
        { path: 'align/rules', name: 'rules', component: () => import('../align/rules/RulesPage.vue') },
        { path: 'align', redirect: (to) => ({ name: 'align', params: { ...to.params, kind: 'rates' } }) },
        { path: 'spreadsheets', name: 'spreadsheets', component: () => import('../files/FilesPage.vue') },
        { path: 'changes', name: 'changes', component: () => import('../connect/ChangesPage.vue') },
        { path: 'post', name: 'post', component: () => import('../post/PostPage.vue') },
        { path: 'tie-out', name: 'tie-out', component: () => import('../tieout/TieOutPage.vue') },
        { path: 'entity', name: 'entity', component: () => import('../practice/EntityPage.vue') },
        { path: 'people', name: 'people', component: () => import('../people/PeoplePage.vue') },
        { path: 'trail', name: 'trail', component: () => import('../audit/TrailPage.vue') },
        { path: 'evidence', name: 'evidence', component: () => import('../evidence/EvidencePage.vue') },
      ],
    },
    { path: '/:rest(.*)*', name: 'lost', component: () => import('./LostPage.vue') },
  ],
})

router.beforeEach(async (to) => {
  // Whoever is invited, or begins, has no account.
  if (to.name === 'invitation' || to.name === 'first') return true
  const session = useSession()
  if (session.view === null && !(await session.load()))
    return to.name === 'sign-in' ? true : { name: 'sign-in', query: { next: to.fullPath } }
  if (session.view?.person.mustChange && to.name !== 'account') return { name: 'account' }
  const [entity] = session.entities
  // Somebody with a single legal entity begins with it; the board is still there to be asked for.
  if (to.redirectedFrom?.name === 'home' && session.entities.length === 1 && entity)
    return { name: 'close', params: { entity: entity.id, month: monthBefore(entity.today) } }
  if (to.params['entity'] !== undefined && !session.entities.some((e) => e.id === to.params['entity']))
    return { name: 'lost', params: { rest: to.path.slice(1).split('/') } }
  return true
})
