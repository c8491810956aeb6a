<script setup lang="ts">
import { useThingMenu } from './thingMenu'

const menu = useThingMenu()
</script>

<template>
  <v-menu v-if="menu.anchor" v-model="menu.isOpen" :target="menu.anchor" location="bottom start" :offset="2">
    <v-list class="slip-list" role="menu">
      <v-list-item v-for="offer in menu.offers" :key="offer.words" role="menuitem" :title="offer.words" @click="menu.choose(offer)" />
      <v-list-item v-if="!menu.offers.length" title="Nothing can be done with it here" disabled />
    </v-list>
  </v-menu>
</template>
