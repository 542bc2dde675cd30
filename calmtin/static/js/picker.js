/* Choosing by typing, wherever an ingredient is chosen: arrows move through what was found, Enter takes the first,
   Escape closes it. In the studio a choice adds a line; in a form its name stands in the field. */
{
  const fieldOf = (picker) => picker.querySelector("[data-pick]");
  const listOf = (picker) => picker.querySelector(".picked");
  const pickerOf = (node) => node.closest?.(".picker:has([data-pick])");

  function close(picker, { keep = false } = {}) {
    if (!keep && fieldOf(picker).dataset.pick === "add") fieldOf(picker).value = "";
    listOf(picker).replaceChildren();
  }

  function take(picker, pick) {
    const field = fieldOf(picker);
    if (field.dataset.pick === "add") {
      field.value = "";
      field.dispatchEvent(new CustomEvent("picked", { bubbles: true, detail: pick.value }));
      return;
    }
    field.value = pick.dataset.name;
    listOf(picker).replaceChildren();
    field.focus();
    field.dispatchEvent(new Event("change", { bubbles: true }));
  }

  /* Enter takes the first that is found for the text as it stands: where the list is an older one's, once its own is
     there. */
  let taking = null;
  function takeFirst(picker) {
    const [field, list] = [fieldOf(picker), listOf(picker)];
    taking = list.dataset.of === field.value ? null : picker;
    if (taking) htmx.trigger(field, "asked");
    else if (list.querySelector(".pick")) take(picker, list.querySelector(".pick"));
  }
  document.addEventListener("htmx:afterSwap", ({ detail }) => {
    const picker = detail.target.matches(".picked") && pickerOf(detail.target);
    if (!picker) return;
    const field = fieldOf(picker);
    detail.target.dataset.of = detail.requestConfig.parameters[field.name];
    if (taking === picker) takeFirst(picker);
    else if (document.activeElement !== field && field.dataset.pick === "name") listOf(picker).replaceChildren();
  });
  document.addEventListener("input", () => (taking = null));

  document.addEventListener("keydown", (event) => {
    const picker = pickerOf(event.target);
    if (!picker) return;
    const stops = [fieldOf(picker), ...picker.querySelectorAll(".pick")];
    const here = stops.indexOf(event.target);
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      stops[here + (event.key === "ArrowDown" ? 1 : -1)]?.focus();
    } else if (event.key === "Enter" && here === 0 && (fieldOf(picker).dataset.pick === "add" || stops.length > 1)) {
      event.preventDefault();
      takeFirst(picker);
    } else if (event.key === "Escape") {
      close(picker);
      fieldOf(picker).focus();
    }
  });
  document.addEventListener("click", (event) => {
    const pick = event.target.closest(".pick");
    if (pick && pickerOf(pick)) take(pickerOf(pick), pick);
  });
  document.addEventListener("focusout", ({ target }) => {
    const picker = pickerOf(target);
    if (!picker || fieldOf(picker).dataset.pick !== "name") return;
    // Not at once: an answer that takes the list away takes the focus with it, in the midst of its work.
    setTimeout(() => {
      if (picker.isConnected && fieldOf(picker) && !picker.contains(document.activeElement)) close(picker, { keep: true });
    });
  });
}
