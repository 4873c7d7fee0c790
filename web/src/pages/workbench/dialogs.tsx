/** The one dialog of the Workbench that is open. */
import { only } from "../../api/client";
import { DeleteCuesDialog } from "../../components/delete-cues-dialog";
import { EditDialog } from "../../components/edit-dialog";
import { PutIntoCrate } from "../../components/put-into-crate";
import { TemplateDialog } from "../../components/template-dialog";
import { WriteDialog } from "../../components/write-dialog";
import type { Bench } from "./bench";
import { ColoursDialog } from "../../components/colours-dialog";
import { FinishDialog } from "./finish-dialog";
import { KeyDialog } from "./key-dialog";
import { OntoGridDialog } from "./onto-grid-dialog";
import { RescanDialog } from "./rescan-dialog";
import { SourcesDialog } from "./sources-dialog";
import { TempoDialog } from "./tempo-dialog";

export function Dialogs({ bench }: { bench: Bench }) {
  const { id } = bench.track.data.track;
  const close = () => bench.ask(null);
  switch (bench.asked) {
    case "tempo":
      return <TempoDialog bench={bench} onClose={close} />;
    case "crate":
      return <PutIntoCrate picked={only(id)} onClose={close} />;
    case "rescan":
      return <RescanDialog bench={bench} onClose={close} />;
    case "onto grid":
      return <OntoGridDialog bench={bench} onClose={close} />;
    case "template":
      return <TemplateDialog picked={only(id)} onClose={close} />;
    case "key":
      return <KeyDialog bench={bench} onClose={close} />;
    case "delete cues":
      return <DeleteCuesDialog picked={only(id)} onClose={close} />;
    case "colours":
      return <ColoursDialog onClose={close} />;
    case "finish":
      return <FinishDialog onClose={close} />;
    case "sources":
      return <SourcesDialog id={id} onClose={close} />;
    case "write":
      return <WriteDialog picked={only(id)} onClose={close} />;
    case "edit":
      return <EditDialog picked={only(id)} onClose={close} />;
    case null:
      return null;
  }
}
