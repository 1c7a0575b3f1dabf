package org.mnemex.engine.text;

import java.util.Map;
import java.util.TreeMap;

/** Literal texts in place of others; where several begin at the same place the longest counts. */
final class TableFilter implements CharFilter {
  private final Map<String, String> table;
  private final int longest;

  TableFilter(Map<String, String> table) {
    this.table = new TreeMap<>(table);
    this.longest = table.keySet().stream().mapToInt(String::length).max().orElse(0);
  }

  @Override
  public String name() {
    return "map: " + table;
  }

  @Override
  public MappedText apply(MappedText text) {
    String from = text.text();
    MappedText.Builder out = text.change();
    int at = 0;
    while (at < from.length()) {
      int length = Math.min(longest, from.length() - at);
      while (length > 0 && !table.containsKey(from.substring(at, at + length))) {
        length--;
      }
      if (length == 0) {
        out.keep(at, at + 1);
        at++;
      } else {
        out.replace(at, at + length, table.getOrDefault(from.substring(at, at + length), ""));
        at += length;
      }
    }
    return out.build();
  }
}
