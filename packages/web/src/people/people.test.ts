import { afterEach, describe, expect, it, vi } from 'vitest'
import { answers, mountIn } from '../../test/mounting.ts'
import SignIn from './SignIn.vue'

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
