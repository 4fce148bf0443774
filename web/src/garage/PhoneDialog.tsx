import { Box, Button, CloseButton, Dialog, Portal, Spinner, Switch } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useDialog } from "../ui/dialog";
import { type Garage, answer, api, problemOf } from "../api/client";
import { clock } from "../units";

/** How often the list looks for a phone that has come in, ms. */
const LOOK = 1500;

/** Lets a phone in from the local network, and shows who was let in. */
export function PhoneDialog() {
  const [open, setOpen] = useDialog("phone", "A phone in the garage");
  return (
    <Dialog.Root open={open} onOpenChange={(change) => setOpen(change.open)} size="lg" placement="center" scrollBehavior="inside" lazyMount unmountOnExit>
      <Dialog.Trigger asChild>
        <Button variant="outline" size="sm">
          Phone
        </Button>
      </Dialog.Trigger>
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="bg.panel">
            <Dialog.Header>
              <Dialog.Title>A phone in the garage</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>
              <Door />
            </Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}

function Door() {
  const garage = useQuery({ queryKey: ["garage"], queryFn: () => answer(api.GET("/api/v1/garage")), refetchInterval: LOOK, staleTime: 0 });
  if (garage.error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(garage.error).detail}
      </Box>
    );
  if (!garage.data) return <Spinner role="status" aria-label="Looking at the door" color="lantern.solid" />;
  const { addresses, devices } = garage.data;
  return (
    <Box display="grid" gap="6">
      {addresses.length === 0 ? <Closed /> : <Invitation devices={devices.length} />}
      {devices.length > 0 && (
        <Box as="section" aria-label="Let in">
          <Box as="h3" fontWeight="semibold" mb="2">
            Let in
          </Box>
          <Box as="ul" listStyleType="none">
            {devices.map((device) => (
              <DeviceRow key={device.id} {...device} />
            ))}
          </Box>
        </Box>
      )}
    </Box>
  );
}

/** The door as it is, for who opens and closes it. */
function useDoor() {
  const client = useQueryClient();
  const onSuccess = (garage: Garage) => client.setQueryData(["garage"], garage);
  const open = useMutation({ mutationFn: () => answer(api.POST("/api/v1/garage/door", { body: {} })), onSuccess });
  const close = useMutation({ mutationFn: () => answer(api.DELETE("/api/v1/garage/door")), onSuccess });
  return { open, close };
}

function Closed() {
  const { open } = useDoor();
  return (
    <Box>
      <Box mb="4">
        A phone can read your builds, tick the steps and write the journal while you work. Nothing is let in before it gives a code that you see here.
      </Box>
      <Button colorPalette="lantern" size="lg" loading={open.isPending} onClick={() => open.mutate()}>
        Let my phone in
      </Button>
      {open.error && (
        <Box role="alert" color="stop.fg" mt="3">
          {problemOf(open.error).detail}
        </Box>
      )}
      <Box color="fg.muted" fontSize="xs" mt="4">
        Orthavis then answers in your own network too, until you close the door here or stop it. What goes over the network is not encrypted: use it in a
        network that you trust.
      </Box>
    </Box>
  );
}

/** A code as a picture and in letters; the next one once a phone has come in by it. */
function Invitation({ devices }: { devices: number }) {
  const { close } = useDoor();
  const { mutate, data, error, isPending } = useMutation({
    mutationFn: async () => ({ ...(await answer(api.POST("/api/v1/garage/code"))), until: Date.now(), devices }),
  });
  useEffect(() => {
    mutate();
  }, [mutate]);
  const failed = error && (
    <Box role="alert" color="stop.fg">
      {problemOf(error).detail}
    </Box>
  );
  if (!data) return failed || <Spinner role="status" aria-label="Making a code" color="lantern.solid" />;
  const spent = devices > data.devices;
  const until = new Date(data.until + data.good_for_s * 1000);
  return (
    <Box display="grid" gridTemplateColumns={{ md: "15rem 1fr" }} gap="6" alignItems="center">
      <Box bg="white" borderRadius="md" p="2" w="15rem" opacity={spent ? 0.15 : 1}>
        <img
          src={`data:image/svg+xml,${encodeURIComponent(data.qr)}`}
          alt={spent ? "A spent code" : "A code to point the phone's camera at"}
          style={{ width: "100%" }}
        />
      </Box>
      <Box>
        {spent ? (
          <Box role="status" color="good.fg" fontSize="lg" mb="3">
            ✓ A device has come in by this code.
          </Box>
        ) : (
          <>
            <Box mb="3">
              Join the phone to the same network and point its camera at the picture, or open <b>{data.address.replace(/#.*/, "")}</b> and type
            </Box>
            <Box fontSize="3xl" fontWeight="bold" letterSpacing="0.12em" lineHeight="1.3" mb="1">
              {data.code.slice(0, 3)} {data.code.slice(3)}
            </Box>
            <Box color="fg.muted" mb="3">
              Good for one device, until {clock(until.toISOString())}.
            </Box>
          </>
        )}
        <Button size="sm" variant="outline" loading={isPending} onClick={() => mutate()}>
          {spent ? "A code for another" : "Another code"}
        </Button>
        {failed}
        <Box color="fg.muted" fontSize="xs" mt="4">
          What goes over the network is not encrypted: use it in a network that you trust.
        </Box>
        <Button mt="2" size="sm" variant="ghost" loading={close.isPending} onClick={() => close.mutate()}>
          Close the door to phones
        </Button>
      </Box>
    </Box>
  );
}

function DeviceRow({ id, name, may_edit, seen_at }: { id: number; name: string; may_edit: boolean; seen_at: string }) {
  const client = useQueryClient();
  const path = { params: { path: { id } } };
  const onSuccess = () => client.invalidateQueries({ queryKey: ["garage"] });
  const allow = useMutation({ mutationFn: (on: boolean) => answer(api.PUT("/api/v1/garage/devices/{id}", { ...path, body: { may_edit: on } })), onSuccess });
  const shut = useMutation({ mutationFn: () => answer(api.DELETE("/api/v1/garage/devices/{id}", path)), onSuccess });
  const error = allow.error ?? shut.error;
  return (
    <Box as="li" display="flex" flexWrap="wrap" alignItems="center" gap="4" py="2" borderTopWidth="1px">
      <Box flex="1 1 10rem">
        <Box fontWeight="semibold">{name}</Box>
        <Box color="fg.muted" fontSize="xs">
          last here {clock(seen_at)}
        </Box>
        {error && (
          <Box role="alert" color="stop.fg" fontSize="xs">
            {problemOf(error).detail}
          </Box>
        )}
      </Box>
      <Switch.Root minH="8" checked={may_edit} disabled={allow.isPending} onCheckedChange={(change) => allow.mutate(change.checked)} colorPalette="lantern">
        <Switch.HiddenInput />
        <Switch.Control />
        <Switch.Label>may edit</Switch.Label>
      </Switch.Root>
      <Button size="sm" minH="8" variant="outline" loading={shut.isPending} onClick={() => shut.mutate()} aria-label={`Shut ${name} out`}>
        Shut out
      </Button>
    </Box>
  );
}
