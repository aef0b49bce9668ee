<script lang="ts">
  import Tabs from '../ui/Tabs.svelte'

  const TABS = [
    ['/gear', 'All gear'],
    ['/gear/inventory', 'Inventory'],
    ['/gear/services', 'Services'],
    ['/gear/groups', 'Groups'],
    ['/gear/tags', 'Tags by rule'],
    ['/gear/changes', 'What has changed'],
  ] as const
</script>

<Tabs tabs={TABS} label="Gear" />
