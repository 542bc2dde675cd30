/* The curve's readout, and saving what is shown. All figures come from the server: the readings
   in the picture's own data, the table beside it. */
{
  const SVG = "http://www.w3.org/2000/svg";
  const STYLES = ["fill", "stroke", "stroke-width", "stroke-dasharray", "opacity", "fill-opacity", "font-size", "font-family", "font-weight", "text-anchor"];
  let at = null;

  const curve = () => document.getElementById("curve");
  const readings = () => curve().dataset.readings.split(";").map((reading) => {
    const [x, temp, ...values] = reading.split("|");
    return [Number(x), temp, values];
  });

  function show(index) {
    const all = readings();
    at = Math.min(Math.max(index, 0), all.length - 1);
    const [x, temp, values] = all[at];
    const line = document.createElementNS(SVG, "line");
    for (const [name, value] of Object.entries({ x1: x, x2: x, y1: 44, y2: curve().dataset.bottom })) line.setAttribute(name, value);
    const lines = [temp, ...values].map((text, row) => {
      const label = document.createElementNS(SVG, "text");
      const left = x > curve().viewBox.baseVal.width / 2;
      label.setAttribute("x", x + (left ? -6 : 6));
      label.setAttribute("y", 62 + 14 * row);
      label.setAttribute("class", left ? "readout-left" : "readout-right");
      label.textContent = text;
      return label;
    });
    document.getElementById("readout").replaceChildren(line, ...lines);
  }

  document.addEventListener("pointermove", (event) => {
    if (!event.target.closest?.("#curve")) return;
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(curve().getScreenCTM().inverse());
    const all = readings();
    show(all.findIndex(([x], i) => i === all.length - 1 || (x + all[i + 1][0]) / 2 >= point.x));
  });
  document.addEventListener("pointerout", (event) => {
    if (event.target.closest?.("#curve") && !event.relatedTarget?.closest?.("#curve"))
      document.getElementById("readout").replaceChildren();
  });
  document.addEventListener("keydown", (event) => {
    if (event.target.id !== "curve" || !["ArrowLeft", "ArrowRight"].includes(event.key)) return;
    event.preventDefault();
    show((at ?? 42) + (event.key === "ArrowRight" ? 1 : -1) * (event.shiftKey ? 10 : 1));
  });

  /* The picture with its styles written into it, since it leaves the style sheet behind. */
  function standalone() {
    const copy = curve().cloneNode(true);
    const originals = [curve(), ...curve().querySelectorAll("*")];
    [copy, ...copy.querySelectorAll("*")].forEach((node, i) => {
      const style = getComputedStyle(originals[i]);
      for (const name of STYLES) node.setAttribute(name, style.getPropertyValue(name));
      for (const name of ["class", "id", "tabindex", "data-readings", "data-bottom", "data-say"]) node.removeAttribute(name);
    });
    const { width, height } = curve().viewBox.baseVal;
    const ground = document.createElementNS(SVG, "rect");
    for (const [name, value] of Object.entries({ width, height, fill: getComputedStyle(document.body).backgroundColor })) ground.setAttribute(name, value);
    copy.prepend(ground);
    copy.setAttribute("xmlns", SVG);
    copy.setAttribute("width", width);
    copy.setAttribute("height", height);
    return { text: new XMLSerializer().serializeToString(copy), width, height };
  }

  function download(blob, kind) {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(blob);
    link.download = `${document.title.split(" · ")[0]}.${kind}`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
  }

  const savers = {
    svg: () => download(new Blob([standalone().text], { type: "image/svg+xml" }), "svg"),
    png: () => {
      const { text, width, height } = standalone();
      const image = new Image();
      image.onload = () => {
        const canvas = document.createElement("canvas");
        [canvas.width, canvas.height] = [2 * width, 2 * height];
        canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
        canvas.toBlob((blob) => download(blob, "png"), "image/png");
      };
      image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
    },
    csv: () => {
      const table = document.getElementById("curve-table");
      const rows = [...table.rows];
      const cell = (node) => `"${node.textContent.replaceAll('"', '""')}"`;
      const text = rows.map((row) => [...row.cells].map(cell).join(table.dataset.between)).join("\r\n");
      download(new Blob([text], { type: "text/csv" }), "csv");
    },
  };
  document.addEventListener("click", (event) => savers[event.target.closest("[data-save]")?.dataset.save]?.());
}
