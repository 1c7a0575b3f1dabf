package org.mnemex.sync.draft;

import com.ibm.icu.text.Transliterator;
import java.nio.charset.StandardCharsets;
import java.util.HashSet;
import java.util.Locale;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Catalogue;

/** Allocates unique names in proposed definitions. */
final class DraftNames {
  private static final int MAX_INDEX = 50;

  private final Set<String> taken;
  private final Set<String> joins = new TreeSet<>();
  private final Set<String> fields = new TreeSet<>();

  /** Names beside the columns of a table. */
  DraftNames(Catalogue.Table root) {
    taken = new HashSet<>(root.columnNames());
    taken.add(root.name());
  }

  /** Names of fields only. */
  DraftNames() {
    taken = Set.of();
  }

  /** Writes a name of any script in ASCII letters. */
  private static String latin(String name) {
    boolean isAscii = StandardCharsets.US_ASCII.newEncoder().canEncode(name);
    return isAscii
        ? name
        : Transliterator.getInstance("Any-Latin; Latin-ASCII").transliterate(name);
  }

  /** The name of an index over something. */
  static String index(String of) {
    String index =
        latin(of).toLowerCase(Locale.ROOT).replaceAll("[^a-z0-9]+", "-").replaceAll("^-+|-+$", "");
    index = index.isEmpty() || !Character.isLetter(index.charAt(0)) ? "index-" + index : index;
    return index.length() > MAX_INDEX ? index.substring(0, MAX_INDEX) : index;
  }

  /** An unused name for a join. */
  String join(String wanted, String table) {
    String base = wanted.replace('.', '_');
    String name = base;
    for (int i = 2; taken.contains(name) || joins.contains(name); i++) {
      name = i == 2 ? table.replace('.', '_') + "_row" : base + i;
    }
    joins.add(name);
    return name;
  }

  static String plural(String name) {
    return name.endsWith("s")
        ? name
        : name.endsWith("y") ? name.substring(0, name.length() - 1) + "ies" : name + "s";
  }

  /** An unused name for a field. */
  String field(@Nullable String join, String column) {
    String base =
        latin(join == null ? column : join + "_" + column)
            .toLowerCase(Locale.ROOT)
            .replaceAll("[^a-z0-9]+", "_")
            .replaceAll("^_+|_+$", "");
    if (base.isEmpty() || !Character.isLetter(base.charAt(0))) {
      base = "f_" + base;
    }
    base = base.length() > 55 ? base.substring(0, 55) : base;
    String name = base;
    for (int i = 2; !fields.add(name); i++) {
      name = base + "_" + i;
    }
    return name;
  }

  /** A column of a join, or of the root, as a definition names it. */
  static String ref(@Nullable String join, String column) {
    return quoted(place(join, column));
  }

  /** A name as a YAML scalar. */
  static String quoted(String name) {
    boolean plain =
        name.matches("[A-Za-z_][A-Za-z0-9_]*(\\.[A-Za-z0-9_]+)*")
            && !name.matches("(?i)true|false|null|yes|no|on|off|y|n");
    return plain ? name : "\"" + name.replace("\\", "\\\\").replace("\"", "\\\"") + "\"";
  }

  /** A column of a join, or of the root, for people. */
  static String place(@Nullable String join, String column) {
    return join == null ? column : join + "." + column;
  }
}
