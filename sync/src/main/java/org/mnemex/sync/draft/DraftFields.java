package org.mnemex.sync.draft;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Catalogue;

/** The fields of a draft, and the endpoint that shows them. */
final class DraftFields {
  private static final double LONG_WORDS = 5;
  private static final String FACET = "facet, filter, show";
  private static final int MAX_SHOWN = 8;
  private static final int MAX_SORTS = 3;

  /** Longer texts are shown as fragments and are too long for a subtitle. */
  private static final double BRIEF_WORDS = 15;

  /** Names of this length and number of words are chosen from a list rather than read. */
  private static final int NAME_LENGTH = 60;

  private static final double NAME_WORDS = 4;
  private static final Pattern NAMED =
      Pattern.compile("(.*_)?(name|title|label|subject|headline)(_.*)?");
  private static final Pattern PICTURED =
      Pattern.compile("(.*_)?(picture|image|photo|thumbnail|cover)(_.*)?");

  private final DraftNames names;
  private final List<String> fields = new ArrayList<>();
  private final Set<String> leftOut = new LinkedHashSet<>();
  private final Map<String, String> facets = new LinkedHashMap<>();
  private final List<Shown> candidates = new ArrayList<>();
  private final List<String> sorts = new ArrayList<>();
  private @Nullable String picture;
  private @Nullable String link;
  private boolean completes;

  /** How much readers of a result need a field, most needed first. */
  private enum Worth {
    /** An address, which is part of every result. */
    ADDRESS,
    NAME,
    PROSE,
    WORD,
    /** A number, a day, a moment. */
    NUMBER,
    /** What belongs to several related rows. */
    RELATED
  }

  /**
   * A field that results may show.
   *
   * @param text whether it is a searched text, whose words are marked
   * @param brief whether it fits on a line
   * @param many whether a record may have several values
   * @param own whether it belongs to the record itself, not to a related row
   */
  private record Shown(
      String name, Worth worth, boolean text, boolean brief, boolean many, boolean own) {
    boolean isLine() {
      return text && brief && own && !many;
    }
  }

  DraftFields(DraftNames names) {
    this.names = names;
  }

  /** A column that becomes no field, and why. */
  void leaveOut(@Nullable String join, String column, String why) {
    leftOut.add(comment(DraftNames.place(join, column)) + ": " + why);
  }

  /** A column of bytes: the text of files, if another column says of which type they are. */
  void file(Catalogue.Table table, Catalogue.Column column, @Nullable String join) {
    String media =
        table.columns().stream()
            .map(Catalogue.Column::name)
            .filter(name -> name.matches("(?i).*(media|mime|content)_?type.*"))
            .findFirst()
            .orElse(null);
    if (media == null) {
      leaveOut(join, column.name(), "bytes, and no column says of which media type");
      return;
    }
    String name = names.field(join, column.name());
    fields.add(
        "%s: {from: %s, media: %s, type: text, extract: true, optional: true}  # %s"
            .formatted(
                name,
                DraftNames.ref(join, column.name()),
                DraftNames.ref(join, media),
                "bytes beside a media type: the text of PDF, DOCX, HTML"));
  }

  /** Makes a field of a column, by its type and its values. */
  void add(DraftColumn column) {
    ColumnSample sample = column.sample();
    if (column.isKey()) {
      line(column, "exact", "filter, show", "part of the key", "");
    } else if (sample.values == 0) {
      leaveOut(column.join(), column.name(), "no sampled row has a value");
    } else if (!number(column) && !moment(column) && !written(column)) {
      text(column);
    }
  }

  private boolean moment(DraftColumn column) {
    String type = column.type().toLowerCase(Locale.ROOT);
    ColumnSample sample = column.sample();
    if (type.startsWith("timestamp")
        || type.startsWith("datetime")
        || sample.matches("\\d{4}-\\d\\d-\\d\\d[T ]\\d\\d:.*")) {
      line(column, "instant", sorting("filter, show", column), "moments", "");
      return true;
    }
    if (type.equals("date") || sample.matches("\\d{4}-\\d\\d-\\d\\d")) {
      line(column, "date", sorting("filter, show", column), "days", "");
      return true;
    }
    return false;
  }

  /** Makes a field of numbers with a decimal comma or grouping, or of days with the year last. */
  private boolean written(DraftColumn column) {
    ColumnSample sample = column.sample();
    String mark = sample.decimalMark();
    if (!mark.isEmpty()) {
      ColumnSample numbers = sample.withPoint(mark);
      numbers(
          column.with(numbers),
          "decimal",
          mark.equals(",") ? "numbers with a decimal comma" : "numbers with grouping",
          ", scale: %d, clean: [{decimal_mark: \"%s\"}]".formatted(numbers.scale(), mark));
      return true;
    }
    String form = sample.dayForm();
    if (!form.isEmpty()) {
      line(
          column,
          "date",
          sorting("filter, show", column),
          "days as " + form,
          ", clean: [{date: %s}]".formatted(form));
    }
    return !form.isEmpty();
  }

  private boolean number(DraftColumn column) {
    String type = column.type().toLowerCase(Locale.ROOT);
    ColumnSample sample = column.sample();
    boolean untyped = type.isEmpty();
    if (type.equals("boolean")
        || type.equals("bool")
        || type.startsWith("bit(1)")
        || untyped && sample.matches("true|false")) {
      facet(line(column, "boolean", FACET, "true or false", ""), "");
      return true;
    }
    boolean whole =
        untyped || type.matches("(tiny|small|medium|big)?int(eger)?\\b.*|(big)?serial.*");
    // A leading zero belongs to a code, not to a number.
    if (whole && sample.matches("-?(0|[1-9]\\d*)")) {
      if (!sample.fits()) {
        line(column, "exact", "filter, show", "whole numbers of more than 18 digits", "");
        return true;
      }
      if (sample.matches("[01]") && sample.distinct <= 2 && !column.many()) {
        facet(line(column, "boolean", FACET, "only 0 and 1", ""), "");
      } else {
        numbers(column, "integer", "whole numbers", "");
      }
      return true;
    }
    boolean broken = untyped || type.matches("(numeric|decimal|real|double|float|money).*");
    if (broken && sample.matches("-?(0|[1-9]\\d*)(\\.\\d+)?([eE][+-]?\\d+)?")) {
      numbers(column, "decimal", "numbers", ", scale: " + sample.scale());
      return true;
    }
    return false;
  }

  /** Numbers that spread widely are chosen by range: about a quarter of the rows in each. */
  private void numbers(DraftColumn column, String type, String why, String more) {
    List<String> ranges = column.many() ? List.of() : column.sample().ranges();
    if (ranges.isEmpty()) {
      line(column, type, sorting("filter, show", column), why, more);
    } else {
      String name =
          line(column, type, sorting(FACET, column), why + "; ranges by their quartiles", more);
      String labels =
          ranges.stream()
              .map(range -> "\"%s\": %s".formatted(range, told(range)))
              .collect(Collectors.joining(", "));
      facet(
          name,
          ", ranges: [\"%s\"], labels: {%s}".formatted(String.join("\", \"", ranges), labels));
    }
  }

  /** A range as people read it. */
  private static String told(String range) {
    if (range.startsWith("..")) {
      return "under " + range.substring(2);
    }
    return range.endsWith("..")
        ? range.substring(0, range.length() - 2) + " and more"
        : range.replace("..", " to ");
  }

  private void text(DraftColumn column) {
    ColumnSample sample = column.sample();
    if (sample.isIdentifier()) {
      line(column, "exact", "filter, show", "identifiers", "");
    } else if (column.type().startsWith("enum")) {
      facet(line(column, "exact", FACET, "values that the database lists", ""), "");
    } else if (sample.isJson()) {
      leaveOut(column.join(), column.name(), "JSON; take parts of it by 'sql'");
    } else if (sample.isAddress()) {
      address(column);
    } else if (sample.isList()) {
      String name =
          line(column, "exact", FACET, "values with commas between", ", clean: [{split: \",\"}]");
      facet(name, "");
    } else if (sample.isHtml()) {
      line(
          column,
          "text",
          "search, show",
          "HTML, %.0f words on average".formatted(sample.words),
          ", clean: [strip_html, squeeze], analyser: " + sample.analyser());
    } else if (column.lookup() && isShort(sample)) {
      String why =
          column.many() ? "short values, several in a record" : "short names that rows refer to";
      String name = line(column, "exact", FACET, why, "");
      facet(name, "");
    } else if (sample.isChoice() && isShort(sample)) {
      String name =
          line(
              column,
              "exact",
              FACET,
              "%d different values in %d rows".formatted(sample.distinct, sample.values),
              "");
      facet(name, "");
    } else if (sample.words >= LONG_WORDS && !isNamed(column)) {
      line(
          column,
          "text",
          "search, show",
          "prose, %.0f words on average".formatted(sample.words),
          ", analyser: " + sample.analyser());
    } else {
      shortText(column);
    }
  }

  private static boolean isNamed(DraftColumn column) {
    return NAMED.matcher(column.name().toLowerCase(Locale.ROOT)).matches();
  }

  private static boolean isShort(ColumnSample sample) {
    return sample.longest <= NAME_LENGTH && sample.words <= NAME_WORDS;
  }

  private void shortText(DraftColumn column) {
    boolean named = isNamed(column) && !column.many();
    String nearly = column.sample().nearly();
    String plain = nearly.isEmpty() ? "short texts" : nearly;
    line(
        column,
        "text",
        named ? "search, show, suggest" : "search, show",
        named ? "names weigh more, and complete what is typed" : plain,
        ", analyser: " + column.sample().analyser() + (named ? ", weight: 3" : ""));
    completes |= named;
  }

  private void address(DraftColumn column) {
    boolean pictured =
        column.sample().isPicture()
            || PICTURED.matcher(column.name().toLowerCase(Locale.ROOT)).matches();
    String name =
        line(
            column, "exact", "show", pictured ? "addresses of pictures" : "addresses of pages", "");
    if (column.many()) {
      return;
    }
    if (pictured && picture == null) {
      picture = name;
    } else if (!pictured && link == null) {
      link = name;
    }
  }

  private static String sorting(String uses, DraftColumn column) {
    return column.many() ? uses : uses + ", sort";
  }

  private void facet(String name, String more) {
    facets.put(name, "{field: %s%s}".formatted(name, more));
  }

  /** Writes the line of a field, and returns its name. */
  private String line(DraftColumn column, String type, String uses, String why, String more) {
    String name = names.field(column.join(), column.name());
    String note = column.note() == null ? "" : "; " + comment(column.note());
    fields.add(
        "%s: {from: %s, type: %s%s, uses: [%s]}  # %s"
            .formatted(
                name, DraftNames.ref(column.join(), column.name()), type, more, uses, why + note));
    if (uses.contains("show")) {
      candidates.add(shown(name, column, type, uses));
    }
    if (uses.contains("sort") && sorts.size() < MAX_SORTS) {
      sorts.add(name);
    }
    return name;
  }

  private static Shown shown(String name, DraftColumn column, String type, String uses) {
    boolean text = type.equals("text");
    boolean isWord = text || type.equals("exact");
    Worth worth = isWord ? Worth.WORD : Worth.NUMBER;
    if (uses.equals("show")) {
      worth = Worth.ADDRESS;
    } else if (column.many() && column.join() != null) {
      worth = Worth.RELATED;
    } else if (uses.contains("suggest")) {
      worth = Worth.NAME;
    } else if (text && column.sample().words >= LONG_WORDS) {
      worth = Worth.PROSE;
    }
    boolean brief = column.sample().words <= BRIEF_WORDS;
    return new Shown(name, worth, text, brief, column.many(), column.join() == null);
  }

  /** What results show, in the order of the columns. */
  private List<Shown> shown() {
    Set<Shown> chosen = new LinkedHashSet<>();
    for (Worth worth : Worth.values()) {
      candidates.stream()
          .filter(one -> one.worth() == worth)
          .filter(one -> worth == Worth.ADDRESS || chosen.size() < MAX_SHOWN)
          .forEach(chosen::add);
    }
    return candidates.stream().filter(chosen::contains).toList();
  }

  /** A text on one line that is not too long. */
  static String comment(String text) {
    String line = text.replaceAll("\\s+", " ").strip();
    return line.length() > 80 ? line.substring(0, 80) + "…" : line;
  }

  /** Writes the fields, and an endpoint for the index. */
  void write(StringBuilder out, String index) {
    out.append("fields:\n");
    fields.forEach(field -> out.append("  ").append(field).append('\n'));
    leftOut.forEach(left -> out.append("  # left out: ").append(left).append('\n'));
    out.append("---\nendpoint: ").append(index).append("-search\nindex: ").append(index);
    out.append('\n');
    if (!facets.isEmpty()) {
      out.append("facets:\n");
      facets.forEach((name, facet) -> out.append("  %s: %s\n".formatted(name, facet)));
    }
    if (!sorts.isEmpty()) {
      out.append("sorts:\n  best: relevance\n");
      sorts.forEach(sort -> out.append("  %1$s: %1$s\n".formatted(sort)));
    }
    List<Shown> shown = shown();
    out.append("show: [")
        .append(shown.stream().map(Shown::name).collect(Collectors.joining(", ")))
        .append("]\n");
    card(out, shown);
    List<Shown> texts = shown.stream().filter(Shown::text).toList();
    if (!texts.isEmpty()) {
      out.append("highlights:\n");
      texts.forEach(
          text ->
              out.append("  ")
                  .append(text.name())
                  .append(text.brief() ? ": whole\n" : ": {fragments: 2, words: 25}\n"));
    }
    if (completes) {
      out.append("completions: {values: {}, words: {most: 3}}  # while somebody types\n");
    }
  }

  private void card(StringBuilder out, List<Shown> shown) {
    List<String> roles = new ArrayList<>();
    List<Shown> lines = shown.stream().filter(Shown::isLine).toList();
    Shown title = lines.stream().filter(one -> one.worth() == Worth.NAME).findFirst().orElse(null);
    if (title != null) {
      roles.add("title: " + title.name());
    }
    lines.stream()
        .filter(one -> !one.equals(title))
        .min(Comparator.comparing(Shown::worth))
        .ifPresent(subtitle -> roles.add("subtitle: " + subtitle.name()));
    if (picture != null) {
      roles.add("picture: " + picture);
    }
    if (link != null) {
      roles.add("link: \"{" + link + "}\"");
    }
    if (!roles.isEmpty()) {
      out.append("card: {").append(String.join(", ", roles)).append("}  # how a result looks\n");
    }
  }
}
