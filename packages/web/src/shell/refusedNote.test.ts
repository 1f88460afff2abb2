import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, test, vi } from 'vitest'
import type { Component } from 'vue'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import AccountChoice from '../align/AccountChoice.vue'
import CertificatePanel from '../align/CertificatePanel.vue'
import DefaultsForm from '../align/DefaultsForm.vue'
import LatestChanges from '../align/LatestChanges.vue'
import RateTimeline from '../align/RateTimeline.vue'
import FindBox from './FindBox.vue'

afterEach(() => vi.unstubAllGlobals())

const DOWN = { status: 503, title: 'The server is busy.', detail: 'Try again in a moment.' }
const SAID = 'The server is busy. Try again in a moment.'

describe('what could not be read is said where it would stand', () => {
  test.each<[string, Component, string, object]>([
    ['accounts to choose from', AccountChoice, '/accounts/choices', { ruleId: 'r', account: '' }],
    ['a rate through time', RateTimeline, '/timeline', { rate: 'R' }],
    ['the latest changes', LatestChanges, '/batches', {}],
    ['certificates', CertificatePanel, '/certificates/p', { party: 'p', name: 'P' }],
    ['what is agreed for new ones', DefaultsForm, '/defaults', { kind: 'items' }],
  ])('%s', async (_, component, end, props) => {
    answers({ [end]: DOWN, '/path': PATH })
    const { page } = await mountIn(component, { props })
    expect(page.get('p[role=alert]').text()).toBe(SAID)
  })

  test('a search', async () => {
    answers({ '/tie-out': DOWN, '/path': PATH })
    const { page } = await mountIn(FindBox, { props: { modelValue: true } })
    await page.get('input').setValue('LA-2')
    await flushPromises()
    expect(page.get('p[role=alert]').text()).toBe(SAID)
  })
})
