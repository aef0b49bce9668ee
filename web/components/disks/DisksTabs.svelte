<script lang="ts">
  import Tabs from '../ui/Tabs.svelte'

  const TABS = [
    ['/disks', 'All drives'],
    ['/disks/replace', 'To be replaced'],
    ['/disks/ratings', 'Rated endurance'],
  ] as const
</script>

<Tabs tabs={TABS} label="Disks" />
