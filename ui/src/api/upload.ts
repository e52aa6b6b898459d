import { type components } from "./schema";
import { ownHeaders, problemOf, ServerProblem } from "./client";

type UploadAnswer = components["schemas"]["UploadOut"];

/** A dropped file with its path below the dropped folder. */
export interface NamedFile {
  path: string;
  file: File;
}

/** Send files in one request; `onProgress` receives a fraction of the bytes sent. Returns a promise and its cancel. */
export function uploadFiles(files: NamedFile[], onProgress: (fraction: number) => void) {
  return sendFiles<UploadAnswer>("/api/props/upload", files, onProgress);
}

/** As `uploadFiles`, to any address that takes files. */
export function sendFiles<T>(address: string, files: NamedFile[], onProgress: (fraction: number) => void) {
  const request = new XMLHttpRequest();
  const done = new Promise<T>((resolve, reject) => {
    request.upload.onprogress = (event) => event.lengthComputable && onProgress(event.loaded / event.total);
    request.onload = () => {
      const body = parse(request.responseText);
      if (request.status === 200) resolve(body as T);
      else reject(problemOf(request.status, body));
    };
    request.onerror = () => reject(new ServerProblem("the server cannot be reached; is it running?"));
    request.onabort = () => reject(new ServerProblem("the upload was cancelled; nothing was taken"));
  });
  const form = new FormData();
  for (const { path, file } of files) {
    form.append("files", file, file.name);
    form.append("paths", path);
  }
  request.open("POST", address);
  for (const [name, value] of Object.entries(ownHeaders())) request.setRequestHeader(name, value);
  request.send(form);
  return { done, cancel: () => request.abort() };
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return {};
  }
}
