declare global {
  namespace App {
    interface Error {
      message: string;
      /** What a person can do about it. */
      remedy?: string;
    }
    interface Locals {
      theme: 'dark' | 'light';
    }
  }
}

export {};
