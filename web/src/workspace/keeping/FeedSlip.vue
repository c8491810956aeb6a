<script setup lang="ts">
// Where other programs read a saved analysis, current at every reading.
import { useClipboard } from '@vueuse/core'
import { computed } from 'vue'

const props = defineProps<{ analysis: { id: string; name: string } }>()
const emit = defineEmits<{ close: [] }>()
const { copy, copied, text } = useClipboard()
const start = computed(() => `${window.location.origin}/feeds/analyses/${props.analysis.id}`)
const odata = computed(() => `${window.location.origin}/feeds/odata/analyses/${props.analysis.id}/`)
const ADDRESSES = [
  { part: 'numbers.csv', words: 'its numbers flat, as CSV: a spreadsheet’s web address' },
  { part: 'numbers.arrows', words: 'its numbers flat, as an Arrow stream: a notebook' },
  { part: 'table.html', words: 'its table as it is seen, as a web page' },
  { part: 'table.xlsx', words: 'its table as it is seen, as a workbook' },
]
</script>

<template>
  <v-dialog
    class="beside"
    scrim="transparent"
    aria-label="Read it from elsewhere"
    :model-value="true"
    width="560"
    @update:model-value="emit('close')"
  >
    <v-card>
      <div class="paper">
        <h2>Read “{{ analysis.name }}” from elsewhere</h2>
        <p class="soft note">
          At these addresses other programs read the saved analysis on fresh data, as far as whoever reads may see.
        </p>
        <div class="line start">
          <code>{{ start }}</code><v-btn aria-label="Copy the address of all that can be read" @click="copy(start)">{{
            copied && text === start ? 'Copied' : 'Copy'
          }}</v-btn>
        </div>
        <span class="soft"
          >what can be read, and what it asks; answered in the address, as in <code>?name=answer</code></span
        >
        <div v-for="each in ADDRESSES" :key="each.part" class="address">
          <div class="line">
            <code>…/{{ each.part }}</code
            ><v-btn :aria-label="`Copy the address of ${each.part}`" @click="copy(`${start}/${each.part}`)">{{
              copied && text.endsWith(each.part) ? 'Copied' : 'Copy'
            }}</v-btn>
          </div>
          <span class="soft">{{ each.words }}</span>
        </div>
        <div class="line start">
          <code>{{ odata }}</code><v-btn aria-label="Copy the address of OData" @click="copy(odata)">{{
            copied && text === odata ? 'Copied' : 'Copy'
          }}</v-btn>
        </div>
        <span class="soft">its numbers flat, as OData 4.01: programs that filter and page by themselves</span>
        <p class="soft note">
          Other programs come with a token, as a password or as Bearer:
          <router-link :to="{ name: 'sessions' }">make one under your name</router-link>.
        </p>
        <footer><v-btn @click="emit('close')">Close</v-btn></footer>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped src="./slip.css" />
<style scoped>
.start {
  margin-bottom: -8px;
}

.address {
  padding-bottom: 6px;
  border-bottom: 1px solid rgb(var(--v-theme-hair));
}

.line {
  display: flex;
  gap: 8px;
  align-items: baseline;
  justify-content: space-between;
}

code {
  overflow-wrap: anywhere;
  font-size: 12px;
  user-select: all;
}

a {
  color: inherit;
}
</style>
