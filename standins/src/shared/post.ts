import { createTransport } from 'nodemailer';

/** How a platform tells its people that something is done: by mail, where it has a server for that. */
export class Post {
  private readonly from: string;
  private readonly transport: ReturnType<typeof createTransport> | null;

  constructor(name: string, smtp: string | null) {
    this.from = `${name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}@platforms.marrowick.example`;
    this.transport = smtp === null ? null : createTransport(smtp);
  }

  /** A mailbox that does not answer keeps nothing from getting done. */
  tell(to: string, subject: string, text: string): void {
    if (to === '' || !this.transport) return;
    this.transport.sendMail({ from: this.from, to, subject, text }).catch((error: unknown) => {
      console.error(error);
    });
  }
}
