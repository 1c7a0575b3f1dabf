package org.mnemex.service.record;

import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import java.io.BufferedReader;
import java.io.IOException;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A table as text (RFC 4180) whose first line names the columns. Commas, semicolons or tabs stand
 * between values, whichever the first line has most of.
 */
public final class CsvTable {
  private static final int MAX_HEADER = 1 << 20;
  private static final char[] SEPARATORS = {',', ';', '\t'};
  private static final int BYTE_ORDER_MARK = 0xFEFF;

  private CsvTable() {}

  /** The rows. */
  public static CsvReader<NamedCsvRecord> open(BufferedReader in) throws IOException {
    in.mark(1);
    if (in.read() != BYTE_ORDER_MARK) {
      in.reset();
    }
    // A row of another length is a mistake of that row alone.
    return CsvReader.builder()
        .fieldSeparator(separator(in))
        .allowExtraFields(true)
        .allowMissingFields(true)
        .ofNamedCsvRecord(in);
  }

  private static char separator(BufferedReader in) throws IOException {
    in.mark(MAX_HEADER);
    int[] counts = new int[SEPARATORS.length];
    boolean quoted = false;
    int read = 0;
    for (int c = in.read(); c >= 0 && ++read < MAX_HEADER && (quoted || c != '\n'); c = in.read()) {
      quoted ^= c == '"';
      for (int i = 0; i < SEPARATORS.length && !quoted; i++) {
        counts[i] += c == SEPARATORS[i] ? 1 : 0;
      }
    }
    in.reset();
    int most = 0;
    for (int i = 1; i < counts.length; i++) {
      most = counts[i] > counts[most] ? i : most;
    }
    return SEPARATORS[most];
  }

  /** What is wrong with a row, or null. */
  public static @Nullable String problem(NamedCsvRecord row) {
    int wanted = row.getHeader().size();
    return row.getFieldCount() == wanted
        ? null
        : "it has %s, and the first line names %s"
            .formatted(counted(row.getFieldCount(), "value"), counted(wanted, "column"));
  }

  private static String counted(int number, String what) {
    return number == 1 ? "1 " + what : number + " " + what + "s";
  }

  /** The values of a row by column; empty ones are missing. */
  public static Map<String, Object> values(NamedCsvRecord row) {
    Map<String, Object> values = new LinkedHashMap<>();
    row.getFieldsAsMap()
        .forEach(
            (name, value) -> {
              if (!value.isEmpty()) {
                values.put(name, value);
              }
            });
    return values;
  }
}
