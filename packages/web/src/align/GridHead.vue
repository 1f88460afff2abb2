<script setup lang="ts">
import type { AlignKind, GridView } from '@axion/contract'
import { computed } from 'vue'
import { count, useFormat } from '../figures/format.ts'
import { KIND_WORDS } from './words.ts'

/** Columns of a grid: what the baseline says, each system, and what is at stake; widths belong to what differs. */
const props = defineProps<{ kind: AlignKind; view: GridView; many: boolean }>()
const words = computed(() => KIND_WORDS[props.kind])
const format = useFormat()
</script>

<template>
  <colgroup>
    <col class="select" />
    <col class="name" />
    <col v-if="!many" class="group" />
    <col class="detail" />
    <col class="total" />
    <col v-for="system in view.systems" :key="system.id" />
    <col :class="kind === 'accounts' ? 'moved' : 'touches'" />
    <col class="stake" />
  </colgroup>
  <thead>
    <tr>
      <th scope="col" aria-label="Selected" />
      <template v-for="(head, at) in words.columns" :key="head"
        ><th v-if="at !== 1 || !many" scope="col" :class="{ n: at === 3 && words.figure }">
          {{ head }}
        </th></template
      >
      <th v-for="system in view.systems" :key="system.id" scope="col" class="system">
        {{ system.name
        }}<small
          >{{ system.pulledAt ? `pulled ${format.instant(system.pulledAt)}` : 'not pulled'
          }}<template v-if="system.changes > 0">, {{ count(system.changes, 'change') }}</template></small
        >
      </th>
      <th
        v-if="kind === 'accounts'"
        scope="col"
        class="n"
        :title="`What the ledger moved on it in the month, ${view.currency}; credits count up`"
      >
        Moved, {{ view.currency }}
      </th>
      <th v-else scope="col" class="n touches">Touches</th>
      <th scope="col" class="n" :title="`Tax at stake, ${view.currency}`">At stake</th>
    </tr>
  </thead>
</template>

<style scoped>
.system {
  border-left: 1px solid var(--rule);
}
th small {
  display: block;
  font-weight: 400;
  font-size: 12px;
}
th {
  max-width: none;
  overflow: hidden;
  text-overflow: ellipsis;
}
col.select {
  width: 30px;
}
col.name {
  width: 16%;
}
col.group {
  width: 8.5%;
}
col.detail {
  width: 11%;
}
col.total {
  width: 108px;
}
.many col.name {
  width: 172px;
}
.many col.detail {
  width: 122px;
}
.many col.total {
  width: 80px;
}
col.touches {
  width: 70px;
}
col.moved {
  width: 118px;
}
col.stake {
  width: 96px;
}
@media (max-width: 1100px) {
  .many .touches {
    display: none;
  }
  .many col.name {
    width: 150px;
  }
  .many col.detail {
    width: 104px;
  }
  .many col.total {
    width: 68px;
  }
  .many col.stake {
    width: 80px;
  }
  th.system small {
    display: none;
  }
}
@media (max-width: 760px) {
  thead {
    display: none;
  }
}
</style>
