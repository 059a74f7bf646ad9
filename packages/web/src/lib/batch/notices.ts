/** Notices on the desktop, for somebody who looks elsewhere. */

/** Whether notices may be shown: allowed, refused, not asked yet, or not there at all. */
export function mayTell(): NotificationPermission | 'none' {
  return typeof Notification === 'undefined' ? 'none' : Notification.permission;
}

export async function askToTell(): Promise<NotificationPermission | 'none'> {
  return typeof Notification === 'undefined' ? 'none' : Notification.requestPermission();
}

/** Shows a notice where that is allowed and the page is not being looked at. */
export function tellPerson(title: string, body: string): void {
  if (mayTell() === 'granted' && document.hidden) new Notification(title, { body });
}
