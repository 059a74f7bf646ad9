<!-- How the pictures of a movie or a contact sheet look. -->
<script lang="ts">
  import Select from '$lib/controls/Select.svelte';
  import TextField from '$lib/controls/TextField.svelte';

  let { fields }: { fields: Readonly<Record<string, string>> } = $props();
</script>

<div class="grid grid-cols-2 gap-3">
  <Select
    label="View"
    name="view"
    value="srgb"
    options={[
      ['srgb', 'sRGB'],
      ['rec709', 'Rec. 709'],
      ['linear', 'linear'],
      ['log', 'log'],
    ]}
  />
  <TextField label="Exposure, stops" name="exposure" figure inputmode="decimal" value="0" problem={fields.exposure} />
</div>
<TextField label="Behind the alpha" name="background" figure placeholder="nothing; black, grey, #rrggbb" problem={fields.background} />
