<script lang="ts">
  import Tabs from '../ui/Tabs.svelte'

  const TABS = [
    ['/alerts', 'All alerts'],
    ['/alerts/rules', 'Rules'],
    ['/alerts/callouts', 'Call-outs'],
    ['/alerts/quiet', 'Quiet and accepted'],
  ] as const
</script>

<Tabs tabs={TABS} label="Alerts" />
