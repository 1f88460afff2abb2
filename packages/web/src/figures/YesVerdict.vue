<script setup lang="ts">
import type { Limits } from '@axion/contract'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useMonth } from '../shell/month.ts'
import { count, useFormat } from './format.ts'

/** A yes, as far as one could look: what was not pulled or could not be read is said with it, and leads to Connect. The month's own limits where none are given. */
const { limits } = defineProps<{ limits?: Limits }>()
const route = useRoute()
const format = useFormat()
const { path } = useMonth()
const of = computed(() => limits ?? path.value?.connect.limits ?? null)
const words = computed(() => {
  const { notPulled = [], failed = [], unread = 0 } = of.value ?? {}
  return [
    notPulled.length > 0 &&
      `${notPulled.join(' and ')} ${notPulled.length === 1 ? 'has' : 'have'} not been pulled`,
    failed.length > 0 && `the last pull of ${failed.join(' and ')} failed`,
    unread > 0 && `${count(unread, 'object')} could not be read`,
  ]
    .filter(Boolean)
    .join('; ')
})
</script>

<template>
  <strong v-if="!of">Reading</strong>
  <template v-else-if="of.all"><strong>Not known yet.</strong> Pull the systems in Connect</template>
  <template v-else-if="of.older"
    ><strong>Not known.</strong> These figures are from before a change of {{ format.instant(of.older) }},
    which is still to be proved</template
  >
  <template v-else
    ><strong>{{ words ? 'Yes, of what was read.' : 'Yes.' }}</strong
    >{{ ' ' }}<slot /><template v-if="words"
      >;
      <RouterLink :to="{ name: 'connect', params: route.params }" data-limits>{{
        words
      }}</RouterLink></template
    ></template
  >
</template>
