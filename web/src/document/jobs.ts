import { ApiProblem, type Job, type MendedAll, type Problem, type Task, answer, api } from "../api/client";
import { askHere } from "../core/transport";

/** How far work has come; `of` is 0 while that is not known. */
export interface Progress {
  done: number;
  of: number;
}

/** Long work on the server: told of as it goes on, called off when it is not wanted any more. */
export async function work(task: Task, signal: AbortSignal, onProgress: (progress: Progress) => void): Promise<MendedAll> {
  // With the core in the page the search runs here; it can be called off, but says nothing on the way.
  const here = await askHere("mend", new TextEncoder().encode(JSON.stringify({ document: task.document, and_fixes: task.and_fixes })), signal);
  if (here) {
    const said = JSON.parse(new TextDecoder().decode(here.answer)) as unknown;
    if (here.status === 200) return said as MendedAll;
    throw new ApiProblem(said as Problem);
  }
  const { id } = await answer<Job>(api.POST("/api/v1/jobs", { body: task }));
  return new Promise((resolve, reject) => {
    const events = new EventSource(`/api/v1/jobs/${id}/events`);
    const end = () => {
      events.close();
      signal.removeEventListener("abort", callOff);
    };
    const callOff = () => {
      end();
      void api.DELETE("/api/v1/jobs/{job}", { params: { path: { job: id } } });
      reject(new DOMException("called off", "AbortError"));
    };
    signal.addEventListener("abort", callOff);
    if (signal.aborted) callOff();
    events.addEventListener("job", (event) => {
      const job = JSON.parse((event as MessageEvent<string>).data) as Job;
      if (job.state === "running") return onProgress(job);
      end();
      if (job.state === "done") resolve(job.answer);
      else reject(new ApiProblem(job.problem));
    });
    events.onerror = () => {
      // The browser tries again by itself, unless the server said that there is no such job.
      if (events.readyState !== EventSource.CLOSED) return;
      end();
      reject(new ApiProblem({ type: "offline", title: "The server is not answering", status: 0, detail: "The search was lost on the way. Start it again." }));
    };
  });
}
