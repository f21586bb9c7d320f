<script lang="ts" generics="T">
  interface Props {
    /** What the group says of itself to those who do not see it. */
    label: string;
    options: readonly T[];
    /** The option that is on, where it is one at a time. */
    value?: T;
    /** Whether an option is on, where several may be or `value` is not all of it. */
    isOn?: (option: T) => boolean;
    isDisabled?: (option: T) => boolean;
    words?: (option: T) => string | number;
    /** What an option is called, where its words are too short to be its name. */
    names?: (option: T) => string | undefined;
    titles?: (option: T) => string | undefined;
    /** Takes the option that was chosen; without it the value is set. */
    onchoose?: (option: T) => void;
  }

  let {
    label,
    options,
    value = $bindable(),
    isOn = (option) => option === value,
    isDisabled = () => false,
    words = String,
    names = () => undefined,
    titles = () => undefined,
    onchoose = (option) => (value = option),
  }: Props = $props();
</script>

<div class="toggle-group" role="group" aria-label={label}>
  {#each options as option, i (i)}
    <button
      type="button"
      aria-pressed={isOn(option)}
      aria-label={names(option)}
      title={titles(option)}
      disabled={isDisabled(option)}
      onclick={() => onchoose(option)}>{words(option)}</button
    >
  {/each}
</div>
