import { act } from "@testing-library/react";

/** A request whose progress and end the test decides. */
export class HeldRequest {
  static last: HeldRequest;
  upload: { onprogress?: (event: { lengthComputable: boolean; loaded: number; total: number }) => void } = {};
  onload?: () => void;
  onerror?: () => void;
  onabort?: () => void;
  status = 0;
  responseText = "";
  form: FormData | null = null;
  address = "";
  headers = new Map<string, string>();
  constructor() {
    HeldRequest.last = this;
  }
  open(_: string, address: string) {
    this.address = address;
  }
  setRequestHeader(name: string, value: string) {
    this.headers.set(name, value);
  }
  send(form: FormData) {
    this.form = form;
  }
  abort() {
    this.onabort?.();
  }
  async answer(status: number, text: string) {
    this.status = status;
    this.responseText = text;
    await act(async () => this.onload?.());
  }
}
