<script setup lang="ts">
import type { FindingView } from '@axion/contract'
import { ref } from 'vue'
import { useRoute } from 'vue-router'
import { SEVERITY_WORDS } from './words.ts'

/** What was found, how bad it is and how to mend it; each may be left as it is with a reason, and taken up again. */
defineProps<{ findings: readonly FindingView[] }>()
const route = useRoute()
const emit = defineEmits<{ leave: [finding: FindingView, reason: string | null] }>()
const leaving = ref<string | null>(null)
const reason = ref('')
function leave(finding: FindingView): void {
  emit('leave', finding, reason.value)
  leaving.value = null
  reason.value = ''
}
</script>

<template>
  <ul v-if="findings.length > 0" class="findings">
    <li v-for="finding in findings" :key="finding.key" :data-finding="finding.code">
      <b :class="finding.left ? '' : finding.severity">{{
        finding.left ? 'left' : SEVERITY_WORDS[finding.severity]
      }}</b>{{ ' ' }}
      <span>{{ finding.says }}</span>
      <template v-if="finding.left">
        <span class="soft">{{ finding.left.person }}: {{ finding.left.reason }}</span
        >{{ ' ' }}
        <button class="plain" type="button" @click="$emit('leave', finding, null)">
          Take it up again
        </button></template
      >
      <template v-else>
        <span class="soft">{{ finding.mend }}</span>{{ ' ' }}
        <RouterLink
          v-if="finding.code === 'AXION_OWED_AS_INCOME'"
          class="do small"
          :to="{ name: 'align', params: { ...route.params, kind: 'accounts' } }"
          >To Accounts</RouterLink
        >{{ ' ' }}
        <button v-if="leaving !== finding.key" class="plain" type="button" @click="leaving = finding.key">
          Leave it
        </button>
        <form v-else class="leave" @submit.prevent="leave(finding)">
          <input
            v-model="reason"
            required
            minlength="3"
            maxlength="400"
            aria-label="Why it is left"
            placeholder="Why it stays as it is"
            autofocus
          />{{ ' ' }} <button class="do small" type="submit">Leave it</button>{{ ' ' }}
          <button class="plain" type="button" @click="leaving = null">Not now</button>
        </form></template
      >
    </li>
  </ul>
</template>

<style scoped>
.findings {
  grid-column: 1 / -1;
  list-style: none;
  margin: 0;
  padding: 0;
}
.findings li {
  padding: 2px 0;
}
.findings .soft {
  margin-left: 6px;
}
.findings b {
  font-size: 13px;
  color: var(--plum);
  margin-right: 6px;
}
.findings b.stops,
.findings b.costs {
  color: var(--rust);
}
.leave {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
.leave input {
  font: inherit;
  font-size: 14px;
  border: 1px solid var(--hair);
  background: var(--sheet);
  color: var(--ink);
  padding: 1px 8px;
  width: 280px;
}
.small {
  min-height: 27px;
  padding: 0 10px;
}
</style>
