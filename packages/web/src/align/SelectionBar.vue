<script setup lang="ts">
import { BULK_ACTIONS, type AlignKind, type BulkAction } from '@axion/contract'
import { computed, ref } from 'vue'
import type { Selection } from './useSelection.ts'
import { BULK_WORDS } from './words.ts'

/** What can be done to all rows that are selected; leaving them as they are takes a reason. */
const props = defineProps<{ selection: Selection; total: number; kind: AlignKind }>()
const emit = defineEmits<{ ask: [action: BulkAction, reason?: string] }>()
/** Only kinds of amount are posted to accounts. */
const actions = computed(() => BULK_ACTIONS.filter((one) => one !== 'open' || props.kind === 'accounts'))
const reason = ref<string | null>(null)
function ask(action: BulkAction): void {
  if (action === 'leave') reason.value = ''
  else emit('ask', action)
}
const leave = (): void => emit('ask', 'leave', reason.value ?? '')
</script>

<template>
  <div class="bar chosenbar" data-selected>
    <b>{{ selection.all.value ? `all ${total}` : selection.ids.value.size }} selected</b>
    <form v-if="reason !== null" class="why" @submit.prevent="leave">
      <input
        v-model="reason"
        required
        minlength="3"
        maxlength="400"
        aria-label="Why they are left"
        placeholder="Why they stay as they are"
        autofocus
      />{{ ' ' }} <button class="do small" type="submit">Leave their findings</button>{{ ' ' }}
      <button class="plain" type="button" @click="reason = null">Not now</button>
    </form>
    <template v-else
      ><button v-for="action in actions" :key="action" class="plain" type="button" @click="ask(action)">
        {{ BULK_WORDS[action].label }}
      </button></template
    >
    <span class="push"
      ><button
        v-if="!selection.all.value && total > selection.ids.value.size"
        class="plain"
        type="button"
        @click="selection.everything"
      >
        select all {{ total }}</button
      >{{ ' ' }} <button class="plain" type="button" @click="selection.clear">select none</button></span
    >
  </div>
</template>

<style scoped src="./bar.css"></style>

<style scoped>
.chosenbar {
  background: var(--plum-wash, var(--slate-wash));
  padding: 3px 10px;
  margin-left: -10px;
  margin-right: -10px;
}
.why {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
.small {
  min-height: 26px;
  padding: 0 10px;
}
.why input {
  width: 280px;
}
</style>
