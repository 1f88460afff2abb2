<script setup lang="ts">
import type { AskedView } from '@axion/contract'
import { computed } from 'vue'
import { count } from '../figures/format.ts'
import StateMark from '../figures/StateMark.vue'
import { CHECK_STATE, CHECK_WORD } from './words.ts'

/** Who answered at a bridge's address, before anything of it is kept. */
const props = defineProps<{ asked: AskedView }>()
const failing = computed(() => props.asked.checks.filter((one) => one.state === 'fails'))
const passing = computed(() => props.asked.checks.filter((one) => one.state === 'passes').length)
const later = computed(() => props.asked.checks.filter((one) => one.state === 'open').length)
</script>

<template>
  <div class="asked" data-asked>
    <p class="who">
      <b>{{ asked.product }}</b> answers, for the company <b>{{ asked.company.name }}</b><span class="soft">
        ({{ asked.company.id }})</span
      >
    </p>
    <p v-if="asked.twins.length > 0" class="note bad">
      It may be the same as {{ asked.twins.join(' and ') }}, which
      {{ asked.twins.length === 1 ? 'is' : 'are' }} connected: every document would be there twice. Connect it
      only where they are two systems.
    </p>
    <dl>
      <dt>Kept in</dt>
      <dd>{{ asked.baseCurrency }}, days of {{ asked.timeZone.replaceAll('_', ' ') }}</dd>
      <dt>Can be read</dt>
      <dd>
        {{ asked.offers.join(', ') || 'nothing' }}
        <template v-if="asked.lacks.length > 0"
          ><br /><span class="breaks">It has no {{ asked.lacks.join(', no ') }}.</span> What rests on them is
          not known</template
        >
      </dd>
      <dt>Can be written</dt>
      <dd>{{ asked.takes.join(', ') || 'nothing: it is read alone' }}</dd>
      <template v-if="asked.checks.length > 0">
        <dt>Readiness</dt>
        <dd>
          {{ count(passing, 'check passes', 'checks pass')
          }}<template v-if="later > 0">, {{ later }} can be told after a pull</template>
          <ul v-if="failing.length > 0">
            <li v-for="check in failing" :key="check.code">
              <StateMark :state="CHECK_STATE[check.state]" :word="CHECK_WORD[check.state]" />
              {{ check.question }} <span class="soft">{{ check.fact }}.</span> {{ check.mend }}
            </li>
          </ul>
        </dd>
      </template>
    </dl>
  </div>
</template>

<style scoped>
.asked {
  align-content: start;
  border-left: 3px solid var(--slate);
  padding: 2px 0 2px 14px;
  font-size: 14px;
  display: grid;
  gap: 6px;
  min-width: 0;
}
.who {
  font-size: 16px;
}
.note {
  margin: 0;
}
dl {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr);
  gap: 3px 10px;
  margin: 0;
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
}
ul {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 4px;
}
</style>
