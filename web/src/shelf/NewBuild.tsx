import { Box, Button, CloseButton, Dialog, Portal } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { type Chemistry, type VehicleKind, answer, api, problemOf } from "../api/client";
import { capital, wordsOf } from "../document/fields";
import { Like } from "../job/Field";
import { WorkingProvider } from "../job/Figure";
import { Segments } from "../ui/Segments";
import { Choice, FieldGrid, TextField } from "../job/fields";
import { Icon } from "../scene/Body";
import { KINDS, formOf, vehicle as sheetOf } from "../scene/outlines";

/** From nothing to a build with a battery in four answers. */
export function NewBuild({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [name, setName] = useState("");
  const [vehicle, setVehicle] = useState<VehicleKind>("bicycle");
  const [variant, setVariant] = useState(formOf({ kind: "bicycle" }).id);
  const [usual, setUsual] = useState(formOf({ kind: "bicycle" }).battery);
  const forms = sheetOf(vehicle).variants;
  const choose = (kind: VehicleKind, form = formOf({ kind }).id) => {
    setVehicle(kind);
    setVariant(form);
    setUsual(formOf({ kind, variant: form }).battery);
  };
  const navigate = useNavigate();
  const client = useQueryClient();
  const start = useMutation({
    mutationFn: async () => {
      const form = formOf({ kind: vehicle, variant });
      const fallback = forms.length > 1 ? form.name : sheetOf(vehicle).name;
      const document = await answer(
        api.POST("/api/v1/starter", { body: { name: name.trim() || fallback, vehicle, variant: form === forms[0] ? null : form.id, ...usual } }),
      );
      return answer(api.POST("/api/v1/builds", { body: document }));
    },
    onSuccess: (stored) => {
      void client.invalidateQueries({ queryKey: ["shelf"] });
      void navigate({ to: "/builds/$id", params: { id: String(stored.id) }, search: { step: "places" }, replace: true });
    },
  });
  return (
    <Dialog.Root open={open} onOpenChange={(change) => !change.open && onClose()} size="lg" placement="center" lazyMount unmountOnExit>
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="bg.panel">
            <WorkingProvider inDialog>
              <form
                onSubmit={(event) => {
                  event.preventDefault();
                  start.mutate();
                }}
              >
                <Dialog.Header>
                  <Dialog.Title>What do you want to light?</Dialog.Title>
                </Dialog.Header>
                <Dialog.Body>
                  <Box role="radiogroup" aria-label="Vehicle" display="grid" gridTemplateColumns="repeat(auto-fill, minmax(7.5rem, 1fr))" gap="2" mb="5">
                    {KINDS.map((kind) => (
                      <Box
                        as="label"
                        key={kind}
                        cursor="pointer"
                        borderWidth="2px"
                        borderColor={kind === vehicle ? "lantern.solid" : "border"}
                        borderRadius="md"
                        p="2"
                        textAlign="center"
                        fontSize="xs"
                        _focusWithin={{ outline: "2px solid", outlineColor: "lantern.focusRing", outlineOffset: "2px" }}
                      >
                        <input
                          type="radio"
                          name="vehicle"
                          className="chakra-visually-hidden"
                          style={{ position: "absolute", opacity: 0, width: 1, height: 1 }}
                          checked={kind === vehicle}
                          onChange={() => choose(kind)}
                        />
                        <Icon kind={kind} variant={kind === vehicle ? variant : undefined} height="3.4rem" />
                        {sheetOf(kind).name}
                      </Box>
                    ))}
                  </Box>
                  {forms.length > 1 && (
                    <Box mb="4">
                      <Segments
                        quiet
                        label="Form"
                        value={variant}
                        options={forms.map((form) => [form.id, form.name] as const)}
                        onChange={(form) => choose(vehicle, form)}
                      />
                    </Box>
                  )}
                  <Box mb="4">
                    <TextField label="Name" value={name} placeholder="Book-delivery trike" onChange={setName} />
                  </Box>
                  <FieldGrid>
                    <Choice
                      label="Battery"
                      value={usual.chemistry}
                      options={wordsOf("Chemistry").map(([word, name]) => [word as Chemistry, capital(name)] as const)}
                      onChange={(chemistry) => setUsual({ ...usual, chemistry })}
                    />
                    <Like field="Battery.series" value={usual.series} onChange={(series) => setUsual({ ...usual, series: series! })} />
                    <Like field="Battery.capacity_ah" value={usual.capacity_ah} onChange={(ah) => setUsual({ ...usual, capacity_ah: ah! })} />
                  </FieldGrid>
                  <Box mt="2" fontSize="xs" color="fg.muted">
                    A usual battery is filled in. A 36 V lithium-ion pack has 10 cells in series, a 12 V lead battery 6.
                  </Box>
                  {start.error && (
                    <Box role="alert" mt="3" color="stop.fg" whiteSpace="pre-line">
                      {problemOf(start.error).detail}
                    </Box>
                  )}
                </Dialog.Body>
                <Dialog.Footer>
                  <Button asChild variant="outline" mr="auto">
                    <Link to="/wish">Plan it from what I want</Link>
                  </Button>
                  <Button type="submit" colorPalette="lantern" loading={start.isPending}>
                    Start
                  </Button>
                </Dialog.Footer>
                <Dialog.CloseTrigger asChild>
                  <CloseButton aria-label="Close" type="button" />
                </Dialog.CloseTrigger>
              </form>
            </WorkingProvider>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
