<!-- How a renderer of this computer is set up, where none is. -->
<script lang="ts">
  const EXAMPLE = `"localCommand": {
  "name": "desk",
  "program": "/opt/renderer/bin/render",
  "arguments": ["--frames", "{first}..{last}",
                "--out", "{folder}"]
}`;
</script>

<details class="mt-1 text-[12.5px] text-soft">
  <summary class="cursor-pointer hover:text-ink">How a renderer of this computer gets into this list</summary>
  <p class="mt-1">Name its program in <code>mint-tally.config.json</code>, beside <code>mint</code>, and start Mint Tally again:</p>
  <pre class="figure mt-1 whitespace-pre-wrap border border-line bg-ground px-2.5 py-1.5 text-[12px]">{EXAMPLE}</pre>
  <p class="mt-1">
    It is run in the shot’s folder, one run of frames at a time, or frame by frame with <code>{'{frame}'}</code>. No page can change what is run.
  </p>
</details>
