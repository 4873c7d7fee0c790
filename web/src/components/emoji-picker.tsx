/** The picker of symbols, drawn with the font that comes with Vinyl: nothing is fetched. */
import EmojiPicker, { EmojiStyle, Theme } from "emoji-picker-react";
import "./emoji-picker.css";

export default function Picker({ dark, onPick }: { dark: boolean; onPick: (emoji: string) => void }) {
  return (
    <EmojiPicker
      emojiStyle={EmojiStyle.NATIVE}
      theme={dark ? Theme.DARK : Theme.LIGHT}
      previewConfig={{ showPreview: false }}
      skinTonesDisabled
      height={340}
      width={320}
      onEmojiClick={({ emoji }) => onPick(emoji)}
    />
  );
}
