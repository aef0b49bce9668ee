<script lang="ts">
  import Tabs from '../ui/Tabs.svelte'

  const TABS = [
    ['/past', 'Curves'],
    ['/past/over', 'Over the line'],
    ['/past/availability', 'Availability'],
    ['/past/quiet', 'Quiet hours'],
  ] as const
</script>

<Tabs tabs={TABS} label="Past" />
