import { afterEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn } from '../../test/mounting.ts'
import AccountPage from './AccountPage.vue'
import PeoplePage from './PeoplePage.vue'
import SignIn from './SignIn.vue'
import { useSession } from '../shell/session.ts'

afterEach(() => vi.unstubAllGlobals())

describe('Sign in', () => {
  it('takes the keyboard at once and never again: what is typed next goes where the person went', async () => {
    answers({})
    const { page } = await mountIn(SignIn)
    const [email, password] = [
      page.find('input[type=email]').element as HTMLInputElement,
      page.find('input[type=password]').element as HTMLInputElement,
    ]
    expect(document.activeElement).toBe(email)
    password.focus()
    await new Promise(requestAnimationFrame)
    expect(document.activeElement).toBe(password)
  })
})

describe('Your account', () => {
  const one = { began: '2026-10-02T08:00:00Z', ends: '2026-10-02T20:00:00Z', from: '10.0.0.1', agent: '' }
  const sessions = [
    { ...one, id: 'a', own: true },
    { ...one, id: 'b', own: false },
  ]

  it('says where somebody is signed in, ends it there, and never here', async () => {
    const asked = answers({ '/api/session/all': { sessions }, '/api/session/all/b': { ended: 'b' } })
    const { page } = await mountIn(AccountPage)
    expect(page.get('[data-verdict]').text()).toContain('Here, and 1 time elsewhere.')
    expect(page.get('[data-session=own]').text()).toContain('this one')
    await page.get('[data-session=other] button').trigger('click')
    expect(asked.find(({ method }) => method === 'DELETE')?.path).toBe('/api/session/all/b')
  })

  it('asks for a password of one’s own where it was set by somebody else', async () => {
    answers({ '/api/session/all': { sessions: [sessions[0]] } })
    const { page } = await mountIn(AccountPage)
    const session = useSession()
    session.view = session.view && {
      ...session.view,
      person: { ...session.view.person, mustChange: true },
    }
    await page.vm.$nextTick()
    expect(page.get('[data-verdict]').text()).toContain('Choose a password.')
    expect(page.text()).toContain('The one you were given')
  })
})

describe('People', () => {
  it.each([
    [true, 1],
    [false, 0],
  ])('sets a temporary password where somebody runs the practice: %s', async (runsPractice, ways) => {
    const member = { name: 'Pia Wren', email: 'p@example.org', role: 'viewer' }
    const asked = answers({ '/members': { members: [member] }, '/password': { email: member.email } })
    const { page } = await mountIn(PeoplePage)
    const session = useSession()
    session.view = session.view && {
      person: { ...session.view.person, runsPractice },
      entities: session.view.entities.map((entity) => ({ ...entity, role: 'administrator' })),
    }
    await page.vm.$nextTick()
    const buttons = page.findAll('button[aria-label^="Set a temporary"]')
    expect(buttons).toHaveLength(ways)
    if (!buttons[0]) return
    await buttons[0].trigger('click')
    await page.get('form[aria-label="Temporary password"] input').setValue('for the time being')
    await page.get('form[aria-label="Temporary password"]').trigger('submit')
    expect(asked.find(({ method }) => method === 'PUT')).toMatchObject({
      path: '/api/people/p%40example.org/password',
      body: { password: 'for the time being' },
    })
  })
})
