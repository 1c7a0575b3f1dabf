package org.mnemex.cli;

import java.io.PrintWriter;
import java.util.ArrayList;
import java.util.List;

/** Rows in columns. A column is as wide as its widest cell; numbers stand to the right. */
final class Table {
  private final List<List<String>> rows = new ArrayList<>();
  private final boolean[] right;

  /**
   * @param header names of columns; one that begins with {@code >} has its cells to the right
   */
  Table(String... header) {
    right = new boolean[header.length];
    List<String> names = new ArrayList<>();
    for (int i = 0; i < header.length; i++) {
      right[i] = header[i].startsWith(">");
      names.add(right[i] ? header[i].substring(1) : header[i]);
    }
    rows.add(names);
  }

  void row(Object... cells) {
    List<String> row = new ArrayList<>();
    for (Object cell : cells) {
      row.add(String.valueOf(cell));
    }
    rows.add(row);
  }

  void print(PrintWriter out) {
    if (rows.getFirst().stream().allMatch(String::isBlank)) {
      rows.removeFirst();
    }
    int[] widths = new int[right.length];
    for (List<String> row : rows) {
      for (int i = 0; i < widths.length; i++) {
        widths[i] = Math.max(widths[i], width(row.get(i)));
      }
    }
    for (List<String> row : rows) {
      StringBuilder line = new StringBuilder();
      for (int i = 0; i < widths.length; i++) {
        String pad = " ".repeat(widths[i] - width(row.get(i)));
        line.append(right[i] ? pad + row.get(i) : row.get(i) + pad).append("  ");
      }
      out.println(line.toString().stripTrailing());
    }
  }

  /** The width of a text in a terminal: East Asian wide characters take two columns. */
  static int width(String text) {
    return text.codePoints()
        .map(
            c ->
                c >= 0x1100
                        && (c <= 0x115F
                            || (c >= 0x2E80 && c <= 0xA4CF)
                            || (c >= 0xAC00 && c <= 0xD7A3)
                            || (c >= 0xF900 && c <= 0xFAFF)
                            || (c >= 0xFF00 && c <= 0xFF60))
                    ? 2
                    : 1)
        .sum();
  }
}
