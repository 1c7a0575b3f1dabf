package org.mnemex.engine.write;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.LengthCode;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Paths;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Token;

/**
 * One field of pending documents.
 *
 * <p>Content beyond a document's limits is cut and counted, never refused: a partly searchable
 * document is better than none. The stored record keeps everything.
 */
final class FieldBuffer {
  /** Between two values of a text field lie this many positions, so that no phrase spans them. */
  static final int POSITION_GAP = 100;

  /** More words of one field of one document are not indexed. */
  static final int MAX_TOKENS = 500_000;

  /** More values of one exact field of one document, or child rows of a group, are not indexed. */
  static final int MAX_VALUES = 10_000;

  final Field field;
  final @Nullable TermBuffer terms;
  final @Nullable TermBuffer values;
  final @Nullable RowBuffer numbers;
  final @Nullable RowBuffer longitudes;
  final @Nullable RowBuffer childRows;
  final List<FieldBuffer> children = new ArrayList<>();
  private byte[] lengthCodes = new byte[64];
  private int rows;
  private long cuts;

  private Analyser.@Nullable Run analysis;
  private byte[] utf8 = new byte[3 * Token.MAX_LENGTH];
  private int base;
  private int last;

  FieldBuffer(Field field) {
    this.field = field;
    boolean text = field.type() == FieldType.TEXT;
    this.terms = field.hasTerms() ? new TermBuffer(text) : null;
    this.values =
        !field.type().isOrdinal() || !field.hasColumn()
            ? null
            : terms != null && !field.fold() ? terms : new TermBuffer(false);
    boolean place = field.type() == FieldType.PLACE;
    this.numbers =
        field.hasColumn() && (field.type().isNumeric() || place) ? new RowBuffer() : null;
    this.longitudes = field.hasColumn() && place ? new RowBuffer() : null;
    this.childRows = field.type() == FieldType.GROUP ? new RowBuffer() : null;
    field.children().forEach(child -> children.add(new FieldBuffer(child)));
    if (terms != null && field.analyser() != null) {
      this.analysis = field.analyser().onto(this::take);
    }
  }

  /** How often something was cut. */
  long cuts() {
    return cuts + children.stream().mapToLong(FieldBuffer::cuts).sum();
  }

  /** Estimate of the heap in use. */
  long bytes() {
    long bytes =
        (terms == null ? 0 : terms.bytes())
            + (values == null || values == terms ? 0 : values.bytes())
            + (numbers == null ? 0 : numbers.bytes())
            + (longitudes == null ? 0 : longitudes.bytes())
            + (childRows == null ? 0 : childRows.bytes());
    for (FieldBuffer child : children) {
      bytes += child.bytes();
    }
    return bytes;
  }

  int lengthCode(int row) {
    return lengthCodes[row] & 0xFF;
  }

  /** Adds the values of the next row. */
  void add(List<Object> given) {
    switch (field.type().storage()) {
      case TEXT -> addText(given);
      case ORDINALS -> addStrings(given);
      case PLACES -> addPlace(given);
      case ROWS -> addRows(given);
      case NUMBERS -> {
        if (numbers != null) {
          numbers.add(given.stream().mapToLong(field::toNumber).toArray());
        }
      }
    }
    rows++;
  }

  /** Forgets every row from {@code wanted} on, some of which may be half added. */
  void truncate(int wanted) {
    for (TermBuffer buffer : new TermBuffer[] {terms, values}) {
      if (buffer != null) {
        buffer.truncate(wanted);
      }
    }
    for (RowBuffer buffer : new RowBuffer[] {numbers, longitudes, childRows}) {
      if (buffer != null) {
        buffer.truncate(wanted);
      }
    }
    if (childRows != null) {
      long kept = 0;
      for (int row = 0; row < childRows.rows(); row++) {
        kept += childRows.value(row, 0);
      }
      for (FieldBuffer child : children) {
        child.truncate((int) kept);
      }
    }
    rows = Math.min(rows, wanted);
  }

  private void addText(List<Object> given) {
    if (terms == null || analysis == null) {
      return;
    }
    terms.startRow();
    base = 0;
    last = -1;
    for (Object value : given) {
      analysis.analyse((String) value);
      base = last + 1 + POSITION_GAP;
    }
    if (rows == lengthCodes.length) {
      lengthCodes = Arrays.copyOf(lengthCodes, 2 * rows);
    }
    lengthCodes[rows] = (byte) LengthCode.of(terms.inRow());
  }

  private void take(Token token) {
    if (terms == null) {
      return;
    }
    if (terms.inRow() >= MAX_TOKENS) {
      cuts++;
      return;
    }
    last = Math.max(last, base + token.position() + token.span() - 1);
    int length = token.utf8(utf8);
    terms.add(utf8, length, base + token.position());
  }

  private void addStrings(List<Object> given) {
    if (terms != null) {
      terms.startRow();
    }
    if (values != null && values != terms) {
      values.startRow();
    }
    for (Object value : given) {
      String text = (String) value;
      if (text.length() > Field.MAX_UNITS) {
        text = Field.indexed(text);
        cuts++;
      }
      if (field.type() == FieldType.PATH) {
        for (String ancestor : Paths.withAncestors(text)) {
          addString(ancestor);
        }
      } else {
        addString(text);
      }
    }
  }

  private void addString(String text) {
    if (values != null) {
      addDistinct(values, text);
    }
    if (terms != null && terms != values) {
      addDistinct(terms, field.term(text));
    }
  }

  private void addDistinct(TermBuffer to, String text) {
    if (to.inRow() >= MAX_VALUES) {
      cuts++;
      return;
    }
    byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
    if (!to.rowHas(bytes, bytes.length)) {
      to.add(bytes, bytes.length, 0);
    }
  }

  private void addPlace(List<Object> given) {
    if (numbers == null || longitudes == null) {
      return;
    }
    if (given.isEmpty()) {
      numbers.add();
      longitudes.add();
    } else {
      Place place = (Place) given.getFirst();
      cuts += given.size() - 1;
      numbers.add(Place.units(place.latitude()));
      longitudes.add(Place.units(place.longitude()));
    }
  }

  private void addRows(List<Object> given) {
    int kept = Math.min(given.size(), MAX_VALUES);
    cuts += given.size() - kept;
    if (childRows != null) {
      childRows.add(kept);
    }
    for (Object row : given.subList(0, kept)) {
      for (FieldBuffer child : children) {
        child.add(((GroupRow) row).fields().getOrDefault(child.field.ownName(), List.of()));
      }
    }
  }
}
