// What the page adds to the document and to the declarations, and what its parts say to each other.

/** A setting of a part says where the part is. */
interface Setting {
  /** `SORT:ID:name`, the address of a part's setting; where it is missing, the name is the address. */
  place?: string;
  part?: { listed: "effects" | "masks"; number: number };
}

/** A step of a change of the document, as in JSON Patch. */
interface Step {
  op: string;
  path: string;
  value?: any;
  from?: string;
}

/** A cue with the id that it has in its track. */
interface ListedCue {
  id: string;
  start_s: number;
  end_s: number;
  text: string;
  speaker: string;
  /** [start, end, text, how sure] each, in seconds. */
  words: any[][];
}

interface Stop {
  at: number;
  colour: string;
}

/** Events as the page's handlers take them: what they happened on is an element, of a kind that the handler knows. */
interface FieldEvent extends Event {
  target: any;
  currentTarget: any;
}

interface PressEvent extends PointerEvent {
  target: any;
  currentTarget: any;
}

interface DropEvent extends DragEvent {
  target: any;
  currentTarget: any;
  dataTransfer: any;
}

interface TypeEvent extends KeyboardEvent {
  target: any;
  currentTarget: any;
}
