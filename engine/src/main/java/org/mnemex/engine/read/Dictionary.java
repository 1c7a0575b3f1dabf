package org.mnemex.engine.read;

import org.mnemex.engine.store.Bytes;

/**
 * Byte strings in order, with a payload each: {@code count u32, offsets u64[count + 1], entries},
 * an entry being {@code length varint, bytes, payload}. Places count from 0.
 */
public final class Dictionary {
  private final Bytes bytes;
  private final int count;
  private final long entries;

  public Dictionary(Bytes bytes) {
    this.bytes = bytes;
    this.count = bytes.intAt(0);
    this.entries = 4 + 8L * (count + 1);
  }

  public int size() {
    return count;
  }

  /** The string at a place. */
  public byte[] get(int place) {
    Bytes entry = entry(place);
    return entry.readBytes(entry.readVarInt());
  }

  /** A cursor on the payload of the string at a place. */
  public Bytes payload(int place) {
    Bytes entry = entry(place);
    int length = entry.readVarInt();
    entry.seek(entry.position() + length);
    return entry;
  }

  /** The place of {@code wanted}, or -1 minus the place where it would stand. */
  public int find(byte[] wanted) {
    int low = 0;
    int high = count - 1;
    while (low <= high) {
      int middle = (low + high) >>> 1;
      Bytes entry = entry(middle);
      int length = entry.readVarInt();
      int comparison = entry.compare(entry.position(), length, wanted);
      if (comparison < 0) {
        low = middle + 1;
      } else if (comparison > 0) {
        high = middle - 1;
      } else {
        return middle;
      }
    }
    return -1 - low;
  }

  /** The first place whose string is not before {@code wanted}. */
  public int ceiling(byte[] wanted) {
    int place = find(wanted);
    return place >= 0 ? place : -1 - place;
  }

  private Bytes entry(int place) {
    return bytes.at(entries + bytes.longAt(4 + 8L * place));
  }
}
