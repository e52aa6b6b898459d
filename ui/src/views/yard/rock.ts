import { useMutation } from "@tanstack/react-query";

import { client, take } from "../../api/client";
import { useNotify } from "../../parts/Toasts";

/** Ask the server for the dense rock; it comes to the board when it is grown. */
export function useGrowRock(): () => void {
  const notify = useNotify();
  const { mutate } = useMutation({
    mutationFn: async () => take(await client.POST("/api/demo/rock")),
    onSuccess: () => notify({ title: "The rock is growing", lines: ["It appears on the board in some seconds."] }),
    onError: (error) => notify({ title: error.message, isProblem: true }),
  });
  return mutate;
}
