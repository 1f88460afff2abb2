<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import Amount from '../figures/Amount.vue'
import { isNil } from '../figures/format.ts'
import { useMonth } from './month.ts'
import MonthChoice from './MonthChoice.vue'
import PersonMenu from './PersonMenu.vue'
import { stagesOf } from './stages.ts'

/** The path across the top: the stages in the order of the work, each with the unproved money that waits there. */
defineEmits<{ find: []; help: [] }>()
const { entity, month, path } = useMonth()
const route = useRoute()

/** Pages that belong to a stage under a name of their own. */
const WITHIN: Readonly<Record<string, string>> = {
  rules: 'align',
  registrations: 'align',
  sale: 'align',
  changes: 'connect',
}
const here = computed(() => WITHIN[String(route.name)] ?? route.name)
const stages = computed(() => stagesOf(path.value))
</script>

<template>
  <header class="band">
    <div class="entity" :class="{ here: route.name === 'close' }">
      <RouterLink :to="{ name: 'close', params: { entity: entity.id, month } }" title="Close sheet">
        <strong>{{ entity.name }}</strong>
      </RouterLink>
      <MonthChoice />
    </div>
    <nav aria-label="Stages">
      <div
        v-for="(stage, at) in stages"
        :key="stage.name"
        class="stage"
        :class="{ here: here === stage.name }"
      >
        <RouterLink
          :to="{ name: stage.name, params: { entity: entity.id, month, ...stage.params } }"
          :aria-current="here === stage.name ? 'page' : undefined"
        >
          <small>{{ at + 1 }}</small>{{ stage.label }}
        </RouterLink>
        <p :class="{ bad: stage.bad }">
          <Amount v-if="stage.money !== null && !isNil(stage.money)" :value="stage.money" :of="stage.of" />
          {{ stage.words }}
        </p>
      </div>
    </nav>
    <div class="person">
      <button type="button" @click="$emit('find')">Find anything <kbd>Ctrl K</kbd></button>
      <PersonMenu :role="entity.role" @help="$emit('help')" />
    </div>
  </header>
</template>

<style scoped>
.band {
  display: flex;
  align-items: stretch;
  background: var(--band);
  color: var(--band-ink);
  min-height: 58px;
}
.entity {
  width: 222px;
  padding: 8px 14px 8px 20px;
  display: flex;
  flex-direction: column;
}
.entity a {
  text-decoration: none;
  overflow: hidden;
}
.entity strong {
  display: block;
  font-weight: 600;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.entity.here,
.stage.here {
  box-shadow: inset 0 3px 0 #c58ab6;
  background: #2a3442;
}
nav {
  display: flex;
  flex: 1;
}
.stage {
  flex: 1;
  max-width: 190px;
  padding: 8px 14px;
  border-left: 1px solid #323c4a;
}
.stage a {
  text-decoration: none;
  font-weight: 600;
}
.stage a::after {
  content: '';
}
.stage small {
  color: var(--band-soft);
  margin-right: 7px;
  font-weight: 400;
}
.stage p {
  color: var(--band-soft);
  font-size: 13.5px;
  white-space: nowrap;
}
.stage p.bad {
  color: var(--rust-on-band);
}
.stage :deep(.amount.open) {
  color: inherit;
}
.person {
  padding: 8px 20px 8px 12px;
  display: flex;
  flex-direction: column;
  align-items: flex-end;
  border-left: 1px solid #323c4a;
  font-size: 13.5px;
  color: var(--band-soft);
}
.person :deep(button) {
  background: none;
  border: 0;
  cursor: pointer;
  white-space: nowrap;
}
kbd {
  font: inherit;
  border: 1px solid #5a6675;
  border-radius: 2px;
  padding: 0 4px;
  color: var(--band-ink);
}
@media (max-width: 1100px) {
  .entity {
    width: 170px;
  }
  .person {
    padding-right: 10px;
  }
  .person kbd {
    display: none;
  }
  .stage {
    padding: 8px 9px;
  }
}
@media (max-width: 900px) {
  .band {
    flex-wrap: wrap;
  }
  nav {
    order: 3;
    width: 100%;
    overflow-x: auto;
  }
  .person {
    flex: 1;
  }
}
</style>
