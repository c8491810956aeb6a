<script setup lang="ts">
// The table as it is seen, taken elsewhere: onto the clipboard or as a file.
import { computed } from 'vue'
import SlipMenu from '@/shell/SlipMenu.vue'
import { useLinking } from './keeping/linking'
import { useCopying } from './table/copying'
import { useSelection } from './table/selection'
import { useWorkspace } from './store'
import { useTaking } from './table/taking'

defineProps<{
  name: string
  disabled: boolean
  /** Whether it is saved, so that it can be read from elsewhere. */ isSaved: boolean
}>()
const emit = defineEmits<{ feed: []; times: [] }>()
const copying = useCopying()
const taking = useTaking()
const linking = useLinking()
const workspace = useWorkspace()
const selection = useSelection()
const tableOf = computed(() =>
  workspace.draft?.analysis ? { name: 'table', params: { id: workspace.draft.analysis.id } } : undefined,
)
</script>

<template>
  <SlipMenu>
    <template #opener="{ own }">
      <v-btn v-bind="own" :disabled="disabled" title="The table as it is seen, onto the clipboard or as a file"
        >Take away</v-btn
      >
    </template>
    <v-list-item
      v-if="selection.selected.length"
      role="menuitem"
      title="Copy what is selected"
      @click="copying.copySelected"
    />
    <v-list-item role="menuitem" title="Copy the whole table" @click="copying.copyTable" />
    <v-list-item role="menuitem" title="As a workbook (XLSX)" @click="taking.take(name, 'xlsx')" />
    <v-list-item
      v-if="!workspace.frozen"
      role="menuitem"
      title="As a workbook with its records"
      subtitle="all that it counts, on further sheets"
      @click="taking.take(name, 'xlsx', true)"
    />
    <v-list-item role="menuitem" title="As an open spreadsheet (ODS)" @click="taking.take(name, 'ods')" />
    <v-list-item role="menuitem" title="As pages (PDF)" @click="taking.take(name, 'pdf')" />
    <v-list-item role="menuitem" title="As a web page (HTML)" @click="taking.take(name, 'html')" />
    <v-list-item role="menuitem" title="As a CSV file" @click="taking.take(name, 'csv')" />
    <v-list-item
      role="menuitem"
      title="The numbers as Parquet"
      subtitle="flat, for other programs"
      @click="taking.take(name, 'parquet')"
    />
    <v-list-item
      role="menuitem"
      title="The numbers as Arrow"
      subtitle="flat, for other programs"
      @click="taking.take(name, 'arrow')"
    />
    <v-list-item
      role="menuitem"
      title="Copy a link to this view"
      subtitle="as it is now, with each reader’s rights"
      @click="linking.copyLink()"
    />
    <v-list-item
      role="menuitem"
      title="Read it from elsewhere…"
      :subtitle="isSaved ? 'always current, in other programs' : 'save it first'"
      :disabled="!isSaved"
      @click="emit('feed')"
    />
    <v-list-item
      role="menuitem"
      title="Start from its table"
      :subtitle="isSaved ? 'a new analysis of its rows, as saved' : 'save it first'"
      :disabled="!isSaved"
      :to="tableOf"
    />
    <v-list-item
      v-if="!workspace.frozen"
      role="menuitem"
      title="By itself, at set times…"
      :subtitle="isSaved ? 'as a file or a frozen copy' : 'save it first'"
      :disabled="!isSaved"
      @click="emit('times')"
    />
  </SlipMenu>
</template>
