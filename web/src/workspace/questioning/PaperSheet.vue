<script setup lang="ts">
// How one number was computed.
import { computed } from 'vue'
import type { WorkingPaper } from '@/api/types'
import { counted, grouped, percented } from './digits'

const props = defineProps<{ paper: WorkingPaper }>()
const account = computed(() => props.paper.account)
</script>

<template>
  <dl class="paper">
    <dt>It shows</dt>
    <dd>
      <strong>{{ account.in_percent ? percented(account.value) : grouped(account.value) }}</strong><template
        v-if="account.why_no_value"
        >. {{ account.why_no_value }}</template
      >
    </dd>
    <template v-if="account.description"
      ><dt>It means</dt>
      <dd>{{ account.description }}</dd></template
    >
    <template v-if="account.formula"
      ><dt>Formula</dt>
      <dd>{{ account.measure }} = {{ account.formula }}</dd></template
    >
    <template v-if="account.row">
      <dt>The row</dt>
      <dd>
        {{ account.row
        }}<template v-for="each in account.row_parts" :key="each.caption"
          ><br />{{ each.caption }} <strong>{{ grouped(each.value) || 'nothing' }}</strong></template
        >
      </dd>
    </template>
    <template v-for="each in account.operands" :key="each.name">
      <dt>{{ account.operands.length > 1 ? each.caption : 'Counted as' }}</dt>
      <dd>
        {{ each.definition }}<template v-if="each.note"> ({{ each.note }})</template>:<br /><strong>{{
          grouped(each.value)
        }}</strong>
        from {{ counted(each.records, 'record') }}
      </dd>
    </template>
    <dt>Where</dt>
    <dd>
      {{ account.caption.join(' · ') || 'over everything'
      }}<template v-for="each in account.joins" :key="each"><br />{{ each }}</template>
    </dd>
    <dt>In force</dt>
    <dd v-if="!account.filters.length" class="soft">no filters</dd>
    <dd v-for="each in account.filters" :key="each">{{ each }}</dd>
    <dt>Worked out anew</dt>
    <dd>
      <template v-if="account.agrees">The records come to the same by themselves.</template
      ><template v-else-if="account.agrees === false"
        >The records come to {{ grouped(account.from_records) }} by themselves, which is not the same.</template
      ><template v-else>{{ account.why_not_compared }}</template>
    </dd>
    <dt>Asked</dt>
    <dd v-if="!paper.request">
      What is open is counted from its dates; answered by the built-in engine, so there is no query text.
    </dd>
    <dd v-else>
      {{ paper.request }}, in {{ Math.max(1, Math.round(paper.took_ms)) }} ms; answered by the built-in engine, so there
      is no query text.
    </dd>
  </dl>
</template>

<style scoped>
.paper {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 7px 18px;
  margin: 4px 0;
}

dt {
  grid-column: 1;
  color: rgb(var(--v-theme-soft));
}

dd {
  grid-column: 2;
  margin: 0;
}
</style>
