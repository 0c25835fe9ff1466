import { remembered, useRemembered } from "../frame/kept";
import { useTell } from "../frame/Tell";

const name = "system notices";

/** Whether the system tells that work ended while the page is behind: only where somebody chose it, and the browser lets it (Notifications API Standard). */
export function useSystemNotices() {
  const [isChosen, setChosen] = useRemembered(name, false);
  const tell = useTell();
  const choose = async (on: boolean) => {
    if (!on) return setChosen(false);
    const answer = await Notification.requestPermission();
    if (answer === "granted") setChosen(true);
    else
      tell.error("The browser does not let pages tell anything outside of it. Its settings for this address say why.");
  };
  return { isPossible: "Notification" in window, isChosen, choose };
}

/** Has the system tell something, where nobody looks at the page; a press on it leads back to the page. */
export function tellBySystem(title: string, body: string, onPress: () => void) {
  if (
    !document.hidden ||
    !remembered(name, false) ||
    !("Notification" in window) ||
    Notification.permission !== "granted"
  )
    return;
  const notice = new Notification(title, { body, icon: "/mark.svg" });
  notice.addEventListener("click", () => {
    window.focus();
    notice.close();
    onPress();
  });
}
