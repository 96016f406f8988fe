/* The ribbon sheet as a picture: the drawing on the page, painted on a canvas at twice its size. */
(() => {
  "use strict";

  const SCALE = 2;

  const save = (address, name) => {
    const link = document.createElement("a");
    link.href = address;
    link.download = name;
    link.click();
  };

  document.addEventListener("DOMContentLoaded", () => {
    document.getElementById("print-sheet").addEventListener("click", () => window.print());
    const button = document.getElementById("png-sheet");
    button.addEventListener("click", () => {
      const svg = document.querySelector(".van-sheet svg");
      const text = new XMLSerializer().serializeToString(svg);
      const picture = new Image();
      picture.onload = () => {
        const canvas = document.createElement("canvas");
        canvas.width = SCALE * svg.viewBox.baseVal.width;
        canvas.height = SCALE * svg.viewBox.baseVal.height;
        canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
        save(canvas.toDataURL("image/png"), button.dataset.name);
      };
      picture.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
    });
  });
})();
