package org.mnemex.service.definition;

import java.time.Duration;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.ComponentException;
import org.mnemex.engine.text.Components;
import org.mnemex.engine.text.NearestName;
import org.mnemex.grammar.ParsedFile;
import org.mnemex.sync.definition.AuditPlan;
import org.mnemex.sync.definition.CleanStep;
import org.mnemex.sync.definition.CompactPlan;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.snakeyaml.engine.v2.nodes.Node;

/** Reads an index definition: record shape and fields. */
final class IndexReader {
  private static final Pattern FIELD_NAME = Pattern.compile("[a-z][a-z0-9_]{0,62}");
  private static final RecordShape NO_SHAPE =
      new RecordShape("", List.of(), null, List.of(), Set.of());

  private final YamlMap map;
  private final String name;
  private final Vocabulary vocabulary;
  private final Set<String> usedAnalysers = new TreeSet<>();
  private final Set<String> usedSynonyms = new TreeSet<>();
  private final Map<String, String> renamed = new TreeMap<>();

  IndexReader(YamlMap map, String name, Vocabulary vocabulary) {
    this.map = map;
    this.name = name;
    this.vocabulary = vocabulary;
  }

  Definition.OfIndex read() {
    String source = map.text("source");
    Collected problems = new Collected();
    OperationReader operation = new OperationReader(map);
    RecordShape rows = problems.of(NO_SHAPE, this::shape);
    List<FieldDefinition> fields = problems.of(List.of(), this::fields);
    AuditPlan audits = problems.of(null, operation::audits);
    CompactPlan compact = problems.of(null, operation::compact);
    Duration grace = problems.of(IndexDefinition.USUAL_GRACE, operation::grace);
    Duration freshest = problems.of(IndexDefinition.USUAL_FRESHEST, operation::freshest);
    String was = problems.of(null, this::was);
    problems.throwIfAny();
    RecordShape shape = rows.withFiles(files(rows, fields));
    String text = shape + "\n" + fields.stream().map(IndexReader::identity).toList();
    return new Definition.OfIndex(
        new IndexDefinition(
            name,
            name,
            source,
            shape,
            fields,
            renamed,
            operation.mostRemoved(),
            operation.mostChanged(),
            operation.keepUnreadable(),
            audits,
            compact,
            grace,
            freshest,
            text),
        List.copyOf(usedAnalysers),
        List.copyOf(usedSynonyms),
        was);
  }

  private List<FieldDefinition> fields() {
    List<FieldDefinition> fields = new ArrayList<>();
    YamlMap all = map.map("fields");
    all.each(name -> fields.add(field(all.map(name), all, name)));
    return fields;
  }

  private @Nullable String was() {
    String was = map.textOr("was", null);
    if (was != null && (was.equals(name) || !ParsedFile.NAME.matcher(was).matches())) {
      throw map.problem("was", "'" + was + "' is not the former name of an index", null);
    }
    return was;
  }

  private static Set<String> files(RecordShape shape, List<FieldDefinition> fields) {
    Set<String> files = new TreeSet<>();
    for (FieldDefinition field : fields) {
      if (field.file() != null && field.from() != null) {
        files.add(shape.tableColumn(field.from()));
      }
    }
    return files;
  }

  /** Everything that determines what the index holds for a field. */
  private static String identity(FieldDefinition field) {
    Analyser queries = field.field().queryAnalyser();
    return "%s queries %s from %s%s%s sql %s clean %s uses %s file %s"
        .formatted(
            field.field().signature(),
            queries == null ? "" : queries.signature(),
            field.from(),
            field.second() == null ? "" : ", " + field.second(),
            field.children().stream().map(IndexReader::identity).toList(),
            field.sql(),
            field.clean(),
            new TreeSet<>(field.field().uses()),
            field.file());
  }

  private RecordShape shape() {
    YamlMap record = map.map("record");
    // Pushed records have no table; the source decides whether one is required.
    String root = String.valueOf(record.textOr("root", ""));
    List<String> key = record.texts("key");
    if (key.isEmpty()) {
      throw record.problem("key", "the columns that identify a record are missing", null);
    }
    String only = record.textOr("only", null);
    List<RecordShape.Join> joins = new ArrayList<>();
    YamlMap joinMap = record.mapOrNull("join");
    if (joinMap != null) {
      joinMap.each(join -> joins.add(join(joinMap.map(join), join, joins)));
    }
    record.finish();
    return new RecordShape(root, key, only, joins, Set.copyOf(map.texts("never")));
  }

  private static RecordShape.Join join(YamlMap map, String name, List<RecordShape.Join> before) {
    boolean many = map.booleanOr("many", false);
    RecordShape.Link link = null;
    Map<String, ColumnRef> match = Map.of();
    YamlMap via = map.mapOrNull("via");
    if (via == null) {
      match = match(map, before);
    } else {
      if (!many) {
        throw map.problem("via", "a join via another table needs 'many: true'", null);
      }
      Map<String, String> to = new LinkedHashMap<>();
      YamlMap toMap = via.map("to");
      toMap.allKeys().forEach(column -> to.put(column, toMap.text(column)));
      link = new RecordShape.Link(via.text("table"), match(via, before), to);
      via.finish();
    }
    RecordShape.Join join =
        new RecordShape.Join(
            name,
            map.text("table"),
            match,
            link,
            many,
            map.textOr("only", null),
            map.texts("order"),
            map.integerOr("limit", 0, 1, 100_000));
    if (!many && (!join.order().isEmpty() || join.limit() > 0)) {
      throw map.problem(
          join.limit() > 0 ? "limit" : "order", "only a join with 'many: true' has this", null);
    }
    map.finish();
    return join;
  }

  private static Map<String, ColumnRef> match(YamlMap map, List<RecordShape.Join> before) {
    Map<String, ColumnRef> match = new LinkedHashMap<>();
    YamlMap pairs = map.map("match");
    for (String column : pairs.allKeys()) {
      ColumnRef ref = ColumnRef.of(pairs.text(column));
      if (ref.join() != null) {
        RecordShape.Join parent =
            before.stream().filter(j -> j.name().equals(ref.join())).findFirst().orElse(null);
        if (parent == null) {
          List<String> names = before.stream().map(RecordShape.Join::name).toList();
          throw pairs.problem(
              column,
              "there is no join '" + ref.join() + "' before this one",
              NearestName.to(ref.join(), names));
        }
        if (parent.many()) {
          throw pairs.problem(
              column,
              "'" + ref.join() + "' may have several rows; a join can only start from a single one",
              null);
        }
      }
      match.put(column, ref);
    }
    if (match.isEmpty()) {
      throw map.problem("match", "at least one equality is needed", null);
    }
    return match;
  }

  private FieldDefinition field(YamlMap field, YamlMap fields, String fieldName) {
    List<String> from = field.texts("from");
    String sql = field.textOr("sql", null);
    FieldType type =
        FieldType.valueOf(
            field.wordOr("type", "", words(FieldType.values())).toUpperCase(Locale.ROOT));
    checkFrom(fields, fieldName, type, from, sql);
    List<CleanStep> clean = clean(field);
    boolean fold = field.booleanOr("fold", false);
    if (fold && type != FieldType.EXACT) {
      throw field.problem("fold", "only exact fields have this; text fields have analysers", null);
    }
    Analysers chains = analysers(field, type);
    Set<Use> uses = uses(field, type);
    renamed(field, fields, fieldName);
    String title = field.textOr("title", null);
    double weight = field.numberOr("weight", 1);
    int scale = type == FieldType.DECIMAL ? field.integerOr("scale", 2, 0, 9) : 0;
    FieldDefinition.File file = file(field, type, from);
    List<FieldDefinition> children =
        type == FieldType.GROUP ? children(field, fieldName, from.getFirst()) : List.of();
    field.finish();
    boolean columns = type != FieldType.GROUP && !from.isEmpty();
    try {
      return new FieldDefinition(
          new Field(
              fieldName,
              type,
              uses,
              fold,
              weight,
              chains.documents,
              chains.queries,
              scale,
              children.stream().map(FieldDefinition::field).toList()),
          columns ? ColumnRef.of(from.getFirst()) : null,
          columns && type == FieldType.PLACE ? ColumnRef.of(from.get(1)) : null,
          sql,
          clean,
          title == null ? fieldName : title,
          children,
          file);
    } catch (IllegalArgumentException e) {
      throw fields.problem(fieldName, String.valueOf(e.getMessage()), null);
    }
  }

  private static List<CleanStep> clean(YamlMap field) {
    List<CleanStep> clean = new ArrayList<>();
    for (Node step : field.items("clean")) {
      clean.add(CleanSteps.of(field, step));
    }
    return clean;
  }

  /** The chains of a field; null if it is no text field. */
  private record Analysers(@Nullable Analyser documents, @Nullable Analyser queries) {}

  private Analysers analysers(YamlMap field, FieldType type) {
    if (type != FieldType.TEXT) {
      if (field.has("synonyms")) {
        throw field.problem("synonyms", "only text fields have synonyms", null);
      }
      return new Analysers(null, null);
    }
    Analyser documents = analyser(field, "analyser", "words");
    Analyser queries =
        field.has("query_analyser") ? analyser(field, "query_analyser", "words") : documents;
    List<SynonymsDefinition> synonyms = synonyms(field);
    try {
      return new Analysers(
          documents,
          (synonyms.isEmpty() ? queries : SynonymsReader.with(queries, synonyms)).forQueries());
    } catch (ComponentException e) {
      throw field.problem("synonyms", String.valueOf(e.getMessage()), e.suggestion());
    }
  }

  private List<SynonymsDefinition> synonyms(YamlMap field) {
    List<SynonymsDefinition> synonyms = new ArrayList<>();
    for (String wanted : field.texts("synonyms")) {
      SynonymsDefinition one = vocabulary.synonyms().get(wanted);
      if (one == null) {
        Set<String> names = vocabulary.synonyms().keySet();
        throw field.problem(
            "synonyms",
            "there are no synonyms '%s'; there are %s"
                .formatted(wanted, names.isEmpty() ? "none" : String.join(", ", names)),
            NearestName.to(wanted, names));
      }
      usedSynonyms.add(wanted);
      synonyms.add(one);
    }
    return synonyms;
  }

  /** A renamed field keeps its values and is not treated as a new one. */
  private void renamed(YamlMap field, YamlMap fields, String fieldName) {
    String was = field.textOr("was", null);
    if (was == null) {
      return;
    }
    if (fields.allKeys().contains(was)) {
      throw field.problem(
          "was",
          "'" + was + "' is a field of this index; only one that is gone can be meant",
          null);
    }
    if (!FIELD_NAME.matcher(was).matches() || renamed.containsValue(was)) {
      throw field.problem("was", "'" + was + "' is not the name of one former field", null);
    }
    renamed.put(fieldName, was);
  }

  private static FieldDefinition.@Nullable File file(
      YamlMap field, FieldType type, List<String> from) {
    boolean extract = field.booleanOr("extract", false);
    String media = field.textOr("media", null);
    boolean optional = field.booleanOr("optional", false);
    if (!extract) {
      if (media != null || optional) {
        throw field.problem(
            media == null ? "optional" : "media",
            "only a field with 'extract: true' has this",
            null);
      }
      return null;
    }
    if (from.size() != 1 || type != FieldType.TEXT) {
      throw field.problem("extract", "only a text field from one column has this", null);
    }
    ColumnRef column = ColumnRef.of(from.getFirst());
    ColumnRef mediaColumn = media == null ? null : ColumnRef.of(media);
    if (mediaColumn != null && !Objects.equals(mediaColumn.join(), column.join())) {
      throw field.problem("media", "it must be a column beside '" + column + "'", null);
    }
    return new FieldDefinition.File(mediaColumn, optional);
  }

  private static void checkFrom(
      YamlMap fields, String fieldName, FieldType type, List<String> from, @Nullable String sql) {
    String wrong =
        switch (type) {
          case PLACE ->
              from.size() == 2 && sql == null
                  ? null
                  : "a place has 'from: [latitude column, longitude column]'";
          case GROUP ->
              from.size() == 1 && sql == null && from.getFirst().indexOf('.') < 0
                  ? null
                  : "a group has 'from' with the name of a join";
          default ->
              from.size() <= 1 && from.isEmpty() != (sql == null)
                  ? null
                  : "a field has either 'from' (a column) or 'sql' (an expression)";
        };
    if (wrong != null) {
      throw fields.problem(fieldName, wrong, null);
    }
  }

  /**
   * The fields of a group's rows; each comes from the join's column of the same name unless it
   * names another.
   */
  private List<FieldDefinition> children(YamlMap group, String groupName, String join) {
    List<FieldDefinition> children = new ArrayList<>();
    YamlMap all = group.map("fields");
    all.each(name -> children.add(child(all, groupName, join, name)));
    return children;
  }

  private FieldDefinition child(YamlMap all, String groupName, String join, String name) {
    YamlMap child = all.map(name);
    FieldType type =
        FieldType.valueOf(
            child.wordOr("type", "", words(FieldType.values())).toUpperCase(Locale.ROOT));
    String column = child.textOr("column", null);
    boolean fold = child.booleanOr("fold", false);
    int scale = type == FieldType.DECIMAL ? child.integerOr("scale", 2, 0, 9) : 0;
    Analysers chains = analysers(child, type);
    List<CleanStep> clean = clean(child);
    child.finish();
    try {
      Field field =
          new Field(
              groupName + "." + name,
              type,
              Set.of(type == FieldType.TEXT ? Use.SEARCH : Use.FILTER),
              fold && type == FieldType.EXACT,
              1,
              chains.documents,
              chains.queries,
              scale,
              List.of());
      return new FieldDefinition(
          field, new ColumnRef(join, column == null ? name : column), null, clean, name);
    } catch (IllegalArgumentException e) {
      throw all.problem(name, String.valueOf(e.getMessage()), null);
    }
  }

  private Analyser analyser(YamlMap field, String key, String otherwise) {
    String wanted = field.textOr(key, otherwise);
    Analyser own = wanted == null ? null : vocabulary.analysers().get(wanted);
    if (own != null) {
      usedAnalysers.add(own.name());
      return own;
    }
    Analyser builtIn = wanted == null ? null : Components.analysers().get(wanted);
    if (builtIn == null) {
      Set<String> names = new TreeSet<>(Components.analysers().keySet());
      names.addAll(vocabulary.analysers().keySet());
      throw field.problem(
          key,
          "there is no analyser '%s'; there are %s".formatted(wanted, String.join(", ", names)),
          NearestName.to(String.valueOf(wanted), names));
    }
    return builtIn;
  }

  private static Set<Use> uses(YamlMap field, FieldType type) {
    if (!field.has("uses")) {
      return type == FieldType.TEXT
          ? EnumSet.of(Use.SEARCH, Use.SHOW)
          : EnumSet.of(Use.FILTER, Use.SHOW);
    }
    Set<Use> uses = EnumSet.noneOf(Use.class);
    Set<String> known =
        Stream.of(Use.values()).map(Use::word).collect(Collectors.toCollection(TreeSet::new));
    for (String word : field.texts("uses")) {
      if (!known.contains(word)) {
        throw field.problem(
            "uses",
            "'%s' is not a use; there are %s".formatted(word, String.join(", ", known)),
            NearestName.to(word, known));
      }
      uses.add(Use.valueOf(word.toUpperCase(Locale.ROOT)));
    }
    if (uses.isEmpty()) {
      throw field.problem("uses", "a field needs at least one use", null);
    }
    return uses;
  }

  private static Set<String> words(FieldType[] types) {
    return Stream.of(types).map(FieldType::word).collect(Collectors.toSet());
  }
}
