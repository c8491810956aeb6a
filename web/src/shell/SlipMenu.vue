<script setup lang="ts">
// A menu of a few lines below what opens it: the focus is in it while it is open, and back where it was afterwards.
import { ref } from 'vue'
import { useMenuFocus } from '@/workspace/useMenuFocus'

const isOpen = ref(false)
const list = ref<{ $el: HTMLElement } | null>(null)
useMenuFocus(isOpen, list)
</script>

<template>
  <v-menu v-model="isOpen" location="bottom end" :offset="2">
    <template #activator="{ props: own }"><slot name="opener" :own="own" /></template>
    <v-list ref="list" class="slip-list" role="menu"><slot /></v-list>
  </v-menu>
</template>
