package org.mnemex.service.store;

import java.util.regex.Matcher;
import org.mnemex.grammar.DefinitionKind;

/**
 * A version of a definition.
 *
 * @param kind kind of the definition
 * @param name its name
 * @param version number of the version, from 1; the highest is current
 * @param file name of the file that it came from
 * @param text the YAML as it was written
 * @param needs YAML of the analysers and the source that an index uses; otherwise empty
 * @param author who applied it; empty if unknown
 * @param createdAt when it was applied, ISO 8601, UTC
 * @param keptAs the name under which the files and records of an index are stored; otherwise empty
 * @param hold whether new editions of an index wait for approval
 */
public record DefinitionRow(
    DefinitionKind kind,
    String name,
    int version,
    String file,
    String text,
    String needs,
    String author,
    String createdAt,
    String keptAs,
    boolean hold) {
  /** A copy as a newer version. */
  public DefinitionRow again(int newer, String by, String now) {
    return new DefinitionRow(kind, name, newer, file, textNow(), needs, by, now, keptAs, false);
  }

  /** Earlier versions of a renamed index contain its former name. */
  private String textNow() {
    return kind == DefinitionKind.INDEX
        ? text.replaceFirst("(?m)^index:.*$", Matcher.quoteReplacement("index: " + name))
        : text;
  }
}
