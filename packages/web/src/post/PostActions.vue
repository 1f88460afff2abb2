<script setup lang="ts">
import type { PostRow, PostState } from '@axion/contract'
import { computed } from 'vue'
import { count } from '../figures/format.ts'
import { isUnderWay, useRuns } from '../shell/runs.ts'

/** What can be done now with the documents that are picked, or with all of a state. */
defineProps<{
  /** How many documents are in a state. */
  counts: (state: PostState) => number
  /** So many are not composed yet, and so many could be sent. */
  composable: number
  ready: number
  picked: {
    readonly some: boolean
    readonly everything: boolean
    readonly toPost: readonly PostRow[]
    readonly toWithdraw: readonly PostRow[]
  }
  /** What the list is narrowed to. */
  filter: Readonly<Record<string, string>>
}>()
const emit = defineEmits<{ ask: [body: object]; withdraw: [units: readonly string[]] }>()
const HANDFUL = 5
const runs = useRuns()
const busy = computed(() => isUnderWay(runs.current.value))
</script>

<template>
  <div class="head-actions">
    <button
      v-if="composable > 0 || ready > 0"
      class="do"
      :class="{ first: composable > 0 && ready === 0 }"
      type="button"
      :disabled="busy"
      @click="runs.start('/post/rehearsal')"
    >
      Rehearse {{ count(composable || ready, 'document') }}
    </button>
    <button
      v-if="picked.toPost.length > 0"
      class="do first"
      type="button"
      :disabled="busy"
      @click="
        emit('ask', picked.everything ? { filter: filter } : { units: picked.toPost.map((r) => r.unit) })
      "
    >
      {{ picked.everything ? 'Post all that is found' : `Post ${picked.toPost.length} selected` }}
    </button>
    <button
      v-if="picked.toWithdraw.length > 0"
      class="do"
      type="button"
      :disabled="busy"
      @click="
        emit(
          'withdraw',
          picked.toWithdraw.map((r) => r.unit),
        )
      "
    >
      Withdraw {{ picked.toWithdraw.length }} selected
    </button>
    <template v-if="!picked.some">
      <button
        v-if="counts('rehearsed') > HANDFUL"
        class="do"
        type="button"
        :disabled="busy"
        @click="emit('ask', { handful: HANDFUL })"
      >
        Post a handful of {{ HANDFUL }}
      </button>
      <button
        v-if="counts('in-doubt') > 0"
        class="do"
        type="button"
        :disabled="busy"
        @click="runs.start('/post/look-again', { units: null })"
      >
        Look up {{ counts('in-doubt') }} in doubt
      </button>
      <button
        v-if="counts('failed') > 0"
        class="do first"
        type="button"
        :disabled="busy"
        @click="emit('ask', { states: ['failed'] })"
      >
        Retry {{ counts('failed') }} failed
      </button>
      <button
        v-if="ready > 0"
        class="do"
        :class="{ first: counts('failed') === 0 }"
        type="button"
        :disabled="busy"
        @click="emit('ask', { states: ['rehearsed', 'changed'] })"
      >
        Post {{ count(ready, 'document') }}
      </button>
    </template>
    <button
      v-if="counts('sent') > 0 && ready === 0"
      class="do"
      :class="{ first: counts('failed') === 0 }"
      type="button"
      :disabled="busy"
      @click="runs.start('/pulls', { systemIds: null })"
    >
      Pull, to see what is booked
    </button>
  </div>
</template>
