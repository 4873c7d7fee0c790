/** The guide within the app. */
import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from "@mui/material";

const ROOMS: { name: string; text: string }[] = [
  {
    name: "Arrivals",
    text: "Add a folder, or watch one: what is put into it comes in by itself. Vinyl reads the files where they lie and changes none of them; what became of each is listed, broken ones first. Playlists of other programs become crates: confirm what their folders are here; what is not found stays wanted and takes its place when it arrives. Say when new tracks are analysed, and between which tempi a style’s beat is counted; have what an older version has heard heard anew. Files of a drive that is unplugged are away and come back with it; moved ones can be looked for. Work, at the top of every room, pauses, cancels and tells what could not be done; a closed or crashed server goes on where it stopped. A file that was replaced by another sound keeps its cues, and is in doubt until you have looked.",
  },
  {
    name: "Shelf",
    text: "All tracks. Type words to find, with errors forgiven, or limits in plain words: tempo 120 to 126, played never, tag Vocal. The pictures filter too: drag across the tempi, click a key to see what fits, a bar, a tag. A heading sorts, with Shift as a further sort; each list remembers its columns. Space plays a row from its main part, and the next choice goes on playing. Alt T lets letters give and take tags while you listen; Alt N makes a new tag. E edits one track or thousands, F2 types into a cell; F shows what fits, with reasons, and Alt F goes there to take it further; Shift L locks, Alt Delete deletes cues of all that is chosen; V shows sleeves; a right click, or Shift F10, shows all that can be done, each with its key, here and on every other thing that can be chosen. A ~ before a tempo or key means analysis is not sure; the ochre bar is the doubt, and its tooltip says why. A ! means that something is wrong with the sound; the Track panel says what. Enter or a double click opens the Workbench. Drag rows, or press P, to put them into a crate: while you hold them, letters look for one, and a folder opens under them. Alt Q shows where files lie, and what there is not in Vinyl yet; 0 to 5 gives stars. Shift Delete takes tracks off the Shelf, after saying what goes; Arrivals brings them back.",
  },
  {
    name: "Workbench",
    text: "The track as a page: a line for every 16 bars, each starting on a phrase. Is the grid right? Bars on top of each other stand in straight stripes (drag them sideways, or lean them with Shift), the drift line runs along zero, the click sounds with the drums; J walks through the whole track in seconds. Where the beat may be half or twice as fast, the page says so, and Shift K takes the other tempo. The Grid panel groups every edit by what it holds fixed. Dashed flags are proposed cues: Y accepts the next, Shift Y all. The list counts bars between cues and marks what is no whole number of phrases. Alt [ and Alt ] step the tempo by ear; Alt U moves a step of the tempo to the other end of its break; Shift C sets the key by ear, its chord under the track. A held pad plays and returns. Routes shorten or re-order a track. Lock what is right; Sources, in the Track panel, says where each value comes from. The list on the left says what is left to do by your own rules; Enter opens the next track. Every button shows its key; ? shows, prints and changes them.",
  },
  {
    name: "Crates",
    text: "Lists in your own order, in folders: drag to reorder, cut and paste, D sets a divider, O folds it, Ctrl and the arrows go from one to the next; N notes something on a place. A heading sorts for looking only; your own order stays until you keep the other. This crate… copies, combines, shuffles and divides by a value. A crate can fill itself by a rule in sentences: L adds a line, a click says one otherwise, W tells why a track is in it or not. A folder can keep a crate for each style, tempo, key or tag, and gets more as values appear; one line can be added, changed or taken out in many rules at once. Deleting a crate leaves its tracks alone; Undo brings it back, after a restart too, and so does the list of deleted ones.",
  },
  {
    name: "Twins",
    text: "The same recording in several files, found by its sound, by file names, and by artist and title. Space plays, 1 to 6 change the copy at the same place and loudness. What differs is marked, what is better is blue. K keeps the copy that is heard; the box says what goes over to it: grid, cues and routes at the same sound, locks, tags, stars, plays and places in lists. Enter settles the group, Shift Enter all sure ones after a summary. The other files are put aside and listed in Arrivals, which brings them back or throws them away. N: not twins; L: later; V: all kept, as versions of one work; O: which file is proposed. One undo brings everything back, files too.",
  },
  {
    name: "Sets",
    text: "A night to come. Alt S on the Shelf or in a crate puts what is chosen into a set’s tray. Here → leads to the side, Enter places what is chosen there after the track of the running order, ← leads back; Y shows what goes on from the track, with its reasons. Joints stand between the tracks, ochre where something speaks against them: J rehearses one: Space plays both, beat on beat; arrows, comma and full stop move out and in points by the step that S chooses, W says that it works, X that it does not. Shift J plays all joints from here on. F, L, H pin a track first, last, or here; W keeps it with the next; N is a note; Del puts it back. O has the set ordered, and compares before you take it, with what each joint costs; what weighs how much is yours. A double click in the picture draws the arc you want, or A over the chosen track, then the arrows. Shift P is the sheet for the booth. Shift W wants a track that you do not have, which takes its place when its file comes. Shift C says whether its recording may be published: ask the rights register, read a table, or say it by hand.",
  },
  {
    name: "Logbook",
    text: "Every gig: where, when, what was played in which order, and how it went. Each silhouette is a night; with Shift a second one stands beside it, with what both share. Mark what is chosen by key: W went well, L fell flat, A asked for, X never here again. Gigs come in from sticks, files, lists and typed lines; the same night told twice is joined and counts once. What looks like practice is proposed for throwing away, and comes back with a click. A night makes the next list: what went well stays, never-again goes, a share is replaced, each with its reason. H, on the Shelf, tells where and when a track was played.",
  },
  {
    name: "Exchange",
    text: "Your work for other programs, and theirs for you. Tick lists and read the ledger before anything is written: what stays as it is, what is changed, what is left here, and the choices that decide it. O tries one track and lays both sides over each other. What is written is read back and compared, and what was there is kept. Bring here looks at another library and shows each difference before you take it in; locks hold, and one undo takes it back.",
  },
  {
    name: "Sticks",
    text: "A stick is packed for one player or several; a sentence says for which, what other files become, and which settings go along. Choose crates and read the plan: what is new, converted, changed or gone, what to look at before the gig, and ways out where it does not fit. Each file is copied, read back and compared; whatever interrupts the packing, what is finished stays and the next one goes on. Check reads everything back, bit for bit. Off… takes a track off a stick, off all, or off the Shelf too. Copies can be levelled or tell their loudness; routes can go as tracks of their own. When a stick is put in, its plays go into the Logbook, and what was changed on a player is shown beside what is here: what both sides changed waits for you, locks hold, and all is one step to undo. The stand-in players are for rehearsing it all.",
  },
];
const SIGNS =
  "Doubt, in ochre, says how far a result should be checked by ear, and why. A “~” before a tempo means: do not trust it yet. Blue is sure, violet is chosen, vermilion is now.";

/** What Vinyl does, room by room, on one page. */
export function Guide({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ typography: "h1" }}>From a folder to the gig</DialogTitle>
      <DialogContent>
        {ROOMS.map((room) => (
          <Box key={room.name} sx={{ mb: 1.8 }}>
            <Typography variant="h2">{room.name}</Typography>
            {room.text}
          </Box>
        ))}
        <Box sx={{ color: "text.secondary" }}>{SIGNS}</Box>
      </DialogContent>
      <DialogActions>
        <Button variant="contained" autoFocus onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
