// Two photos with a divide that moves, and a camera that shows the last picture faintly over the next one.
"use strict";

document.addEventListener("DOMContentLoaded", () => {
  const over = document.querySelector("[data-divide]");
  const slide = document.querySelector(".ph-slide input");
  if (over && slide) {
    const half = over.querySelector("#half rect"), edge = over.querySelector(".c-axis");
    const to = (percent) => {
      slide.value = percent;
      half.setAttribute("width", 10 * percent);
      edge.setAttribute("d", `M${10 * percent} 0V4000`);
    };
    slide.addEventListener("input", () => to(slide.value));
    over.addEventListener("pointermove", (event) => {
      if (!event.buttons) { return; }
      const box = over.getBoundingClientRect();
      to(Math.min(100, Math.max(0, (100 * (event.clientX - box.left)) / box.width)));
    });
    over.addEventListener("dragstart", (event) => event.preventDefault());
  }

  const same = document.querySelector("[data-same-view]");
  const camera = document.querySelector(".ph-camera");
  if (same && same.dataset.last && navigator.mediaDevices?.getUserMedia) {
    const video = camera.querySelector("video"), said = camera.querySelector("[role=status]");
    let stream = null;
    same.hidden = false;
    const stop = () => { stream?.getTracks().forEach((track) => track.stop()); stream = null; };
    same.addEventListener("click", async () => {
      camera.showModal();
      try {
        stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment", width: { ideal: 2048 } } });
        video.srcObject = stream;
        await video.play();
        said.textContent = "Move until both lie on each other.";
      } catch {
        said.textContent = "The camera cannot be used here: choose a picture instead.";
      }
    });
    camera.addEventListener("close", stop);
    camera.querySelector("[data-close]").addEventListener("click", () => camera.close());
    camera.querySelector("[data-shoot]").addEventListener("click", () => {
      if (!stream) { return; }
      const canvas = document.createElement("canvas");
      canvas.width = video.videoWidth;
      canvas.height = video.videoHeight;
      canvas.getContext("2d").drawImage(video, 0, 0);
      canvas.toBlob((blob) => {
        const files = new DataTransfer();
        files.items.add(new File([blob], "same-view.jpg", { type: "image/jpeg" }));
        document.getElementById("photo").files = files.files;
        camera.close();
        document.querySelector(".ph-send").requestSubmit();
      }, "image/jpeg", 0.92);
    });
  }
});
