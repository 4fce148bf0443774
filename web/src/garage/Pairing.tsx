import { Box, Button, Heading, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useEffect, useState } from "react";
import { answer, api, problemOf } from "../api/client";
import { TextField } from "../ui/fields";

/** The code that a phone was pointed at stands after the `#`; it is taken once, and out of the address. */
let shown = location.pathname === "/pair" ? location.hash.slice(1) : "";

function takeShown(): string {
  const code = shown;
  shown = "";
  if (code) history.replaceState(null, "", "/");
  return code;
}

const usualName = () => (/mobile|android|iphone/i.test(navigator.userAgent) ? "Phone" : "Computer");

/** What a device sees that is not let in yet: the code from the workshop's screen opens the door. */
export function Pairing() {
  const client = useQueryClient();
  const [code, setCode] = useState("");
  const [name, setName] = useState(usualName);
  const { mutate, isPending, error } = useMutation({
    mutationFn: (body: { code: string; name: string }) => answer(api.POST("/api/v1/garage/pair", { body })),
    onSuccess: (me) => {
      history.replaceState(null, "", "/");
      client.setQueryData(["me"], me);
    },
  });
  useEffect(() => {
    const given = takeShown();
    if (given) mutate({ code: given, name: usualName() });
  }, [mutate]);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    mutate({ code, name: name.trim() || usualName() });
  };
  return (
    <Box as="main" maxW="26rem" mx="auto" mt={{ base: "6", md: "20" }} p="6" borderWidth={{ md: "1px" }} borderRadius="lg" bg={{ md: "bg.panel" }}>
      <Heading as="h1" size="xl" color="lantern.fg" mb="2">
        Orthavis
      </Heading>
      <Text mb="5" color="fg.muted">
        This device is not let in yet. At the workshop’s own screen press <b>Phone</b> on the shelf, then point this device’s camera at the picture there, or
        type the code below it.
      </Text>
      {error && (
        <Box role="alert" color="stop.fg" mb="4">
          {problemOf(error).detail}
        </Box>
      )}
      <form onSubmit={submit}>
        <Box display="grid" gap="4">
          <TextField label="Code" value={code} placeholder="six letters and figures" most={12} code onChange={setCode} />
          <TextField label="What to call this device" value={name} most={60} onChange={setName} />
          <Button type="submit" colorPalette="lantern" size="lg" minH="12" loading={isPending} disabled={code.trim() === ""}>
            Come in
          </Button>
        </Box>
      </form>
    </Box>
  );
}
