package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.QueryRefusedException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.Postings;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;
import org.mnemex.engine.text.Folding;

/** Turns queries into matchers and sets of documents for one segment. */
final class SegmentQuery {
  private static final Analyser WORDS =
      java.util.Objects.requireNonNull(Components.analysers().get("words"));

  private final SegmentReader segment;
  private final Schema schema;
  private final EditionStatistics statistics;

  SegmentQuery(SegmentView view, Schema schema, EditionStatistics statistics) {
    this.segment = view.reader();
    this.schema = schema;
    this.statistics = statistics;
  }

  /** A matcher for {@code query}, which may give deleted documents. */
  Matcher matcher(Query query) {
    Matcher matcher = scoring(query);
    return matcher == null ? new Matcher.Bits(DocBits.all(segment.documents())) : matcher;
  }

  /** As {@link #matcher}, or null if the query asks for nothing, like a lone stopword. */
  private @Nullable Matcher scoring(Query query) {
    return switch (query) {
      case Query.AllOf all -> allOf(all.clauses());
      case Query.AnyOf any -> {
        List<Matcher> clauses = new ArrayList<>();
        for (Query clause : any.clauses()) {
          Matcher matcher = scoring(clause);
          if (matcher != null) {
            clauses.add(matcher);
          }
        }
        yield clauses.isEmpty() && !any.clauses().isEmpty() ? null : new Matcher.Any(clauses);
      }
      case Query.Word word -> word(word);
      case Query.Phrase phrase -> phrase(phrase.fields(), phrase.text());
      default -> new Matcher.Bits(bits(query));
    };
  }

  private @Nullable Matcher allOf(List<Query> clauses) {
    List<Matcher> required = new ArrayList<>();
    List<Matcher> optional = new ArrayList<>();
    for (Query clause : clauses) {
      Matcher matcher = scoring(clause);
      if (matcher != null) {
        (clause instanceof Query.Word word && mayBeMissing(word) ? optional : required)
            .add(matcher);
      }
    }
    if (required.isEmpty()) {
      return optional.isEmpty() ? null : new Matcher.Any(optional);
    }
    return required.size() == 1 && optional.isEmpty()
        ? required.getFirst()
        : new Matcher.All(required, optional);
  }

  /** Whether some field drops the word; documents are then not to be missed for lack of it. */
  private boolean mayBeMissing(Query.Word word) {
    return word.fields().keySet().stream()
        .map(this::searchable)
        .anyMatch(field -> queryTokens(field, word.text(), word.prefix()).isEmpty());
  }

  private @Nullable Matcher word(Query.Word word) {
    List<WordMatcher.FieldPart> parts = new ArrayList<>();
    long having = 0;
    boolean asked = false;
    for (Map.Entry<String, Double> entry : word.fields().entrySet()) {
      Field field = searchable(entry.getKey());
      List<AnalysedToken> tokens = queryTokens(field, word.text(), word.prefix());
      if (tokens.isEmpty()) {
        continue;
      }
      asked = true;
      if (tokens.size() > 1) {
        having = Math.max(having, leastFrequency(field, tokens));
        addPart(parts, field, entry.getValue(), phraseIn(field, tokens));
        continue;
      }
      String term = tokens.getFirst().text();
      if (word.prefix()) {
        having = Math.max(having, statistics.prefixFrequency(field, term));
        addPart(parts, field, entry.getValue(), prefixIn(field, term));
      } else {
        having = Math.max(having, statistics.documentFrequency(field, term));
        addPart(parts, field, entry.getValue(), termIn(field, term));
      }
    }
    return asked ? new WordMatcher(parts, WordMatcher.idf(statistics.documents(), having)) : null;
  }

  private @Nullable Matcher phrase(Map<String, Double> fields, String text) {
    List<WordMatcher.FieldPart> parts = new ArrayList<>();
    double idf = 0;
    boolean asked = false;
    for (Map.Entry<String, Double> entry : fields.entrySet()) {
      Field field = searchable(entry.getKey());
      List<AnalysedToken> tokens = queryTokens(field, text, false);
      if (tokens.isEmpty()) {
        continue;
      }
      asked = true;
      double sum = 0;
      for (AnalysedToken token : tokens) {
        sum +=
            WordMatcher.idf(
                statistics.documents(), statistics.documentFrequency(field, token.text()));
      }
      idf = Math.max(idf, sum);
      addPart(parts, field, entry.getValue(), phraseIn(field, tokens));
    }
    return asked ? new WordMatcher(parts, idf) : null;
  }

  private void addPart(
      List<WordMatcher.FieldPart> parts,
      Field field,
      double weight,
      @Nullable Occurrences occurrences) {
    if (occurrences != null) {
      boolean text = field.type() == FieldType.TEXT;
      parts.add(
          new WordMatcher.FieldPart(
              occurrences,
              weight,
              text ? segment.lengths(field) : null,
              text ? statistics.averageLength(field) : 1));
    }
  }

  private long leastFrequency(Field field, List<AnalysedToken> tokens) {
    return tokens.stream()
        .mapToLong(token -> statistics.documentFrequency(field, token.text()))
        .min()
        .orElse(0);
  }

  private @Nullable Occurrences termIn(Field field, String term) {
    Dictionary terms = segment.terms(field);
    int place = terms.find(term.getBytes(StandardCharsets.UTF_8));
    return place < 0 ? null : Occurrences.of(segment.postings(field, terms, place, false));
  }

  private Occurrences prefixIn(Field field, String prefix) {
    Dictionary terms = segment.terms(field);
    int[] freqByDoc = new int[segment.documents()];
    for (int place : PrefixRange.of(terms, prefix.getBytes(StandardCharsets.UTF_8))) {
      Postings postings = segment.postings(field, terms, place, false);
      while (postings.next() != Postings.END) {
        freqByDoc[postings.doc()] += postings.freq();
      }
    }
    return Occurrences.of(freqByDoc);
  }

  private @Nullable Occurrences phraseIn(Field field, List<AnalysedToken> tokens) {
    if (tokens.size() == 1) {
      return termIn(field, tokens.getFirst().text());
    }
    Dictionary terms = segment.terms(field);
    List<Postings> postings = new ArrayList<>();
    for (AnalysedToken token : tokens) {
      int place = terms.find(token.text().getBytes(StandardCharsets.UTF_8));
      if (place < 0) {
        return null;
      }
      postings.add(segment.postings(field, terms, place, true));
    }
    return new PhraseOccurrences(
        postings, tokens.stream().mapToInt(AnalysedToken::position).toArray());
  }

  /**
   * Text goes through the field's query analyser; an exact field's whole value is the token. The
   * beginning of a word that happens to be a stopword ({@code an} of {@code anemone}) is kept.
   */
  private static List<AnalysedToken> queryTokens(Field field, String text, boolean prefix) {
    if (field.queryAnalyser() != null) {
      List<AnalysedToken> tokens = field.queryAnalyser().tokens(text);
      return tokens.isEmpty() && prefix ? WORDS.tokens(text) : tokens;
    }
    String whole = field.fold() ? Folding.foldCase(text) : text;
    return whole.isEmpty() ? List.of() : List.of(new AnalysedToken(whole, 0, text.length(), 0, 1));
  }

  private Field searchable(String name) {
    Field field = schema.field(name);
    if (!field.uses().contains(Use.SEARCH) || !field.hasTerms()) {
      throw new QueryRefusedException(
          "field '" + name + "' cannot be searched; give it the use 'search' in the index");
    }
    return field;
  }

  /** The documents that match, deleted ones included. */
  DocBits bits(Query query) {
    return switch (query) {
      case Query.Everything everything -> DocBits.all(segment.documents());
      case Query.Nothing nothing -> new DocBits(segment.documents());
      case Query.AllOf all -> {
        DocBits bits = DocBits.all(segment.documents());
        all.clauses().forEach(clause -> bits.and(bits(clause)));
        yield bits;
      }
      case Query.AnyOf any -> {
        DocBits bits = new DocBits(segment.documents());
        any.clauses().forEach(clause -> bits.or(bits(clause)));
        yield bits;
      }
      case Query.Not not -> {
        DocBits bits = DocBits.all(segment.documents());
        Matcher excluded = scoring(not.clause());
        if (excluded != null) {
          bits.andNot(collect(excluded));
        }
        yield bits;
      }
      case Query.Word word -> collect(matcher(word));
      case Query.Phrase phrase -> collect(matcher(phrase));
      case Query.OneOf oneOf -> oneOf(oneOf);
      case Query.StartsWith starts -> startsWith(starts);
      case Query.Range range -> range(range);
      case Query.Exists exists -> exists(exists);
    };
  }

  private DocBits collect(Matcher matcher) {
    DocBits bits = new DocBits(segment.documents());
    while (matcher.next() != Matcher.END) {
      bits.set(matcher.doc());
    }
    return bits;
  }

  private DocBits oneOf(Query.OneOf query) {
    Field field = filterable(query.field());
    DocBits bits = new DocBits(segment.documents());
    if (field.type() == FieldType.EXACT) {
      Dictionary terms = segment.terms(field);
      for (Object value : query.values()) {
        int place = terms.find(exactTerm(field, (String) value));
        if (place >= 0) {
          addAll(segment.postings(field, terms, place, false), bits);
        }
      }
      return bits;
    }
    long[] wanted = query.values().stream().mapToLong(field.type()::toNumber).sorted().toArray();
    addWhere(field, value -> Arrays.binarySearch(wanted, value) >= 0, bits);
    return bits;
  }

  private DocBits startsWith(Query.StartsWith query) {
    Field field = filterable(query.field());
    DocBits bits = new DocBits(segment.documents());
    Dictionary terms = segment.terms(field);
    for (int place : PrefixRange.of(terms, exactTerm(field, query.prefix()))) {
      addAll(segment.postings(field, terms, place, false), bits);
    }
    return bits;
  }

  private static byte[] exactTerm(Field field, String value) {
    return (field.fold() ? Folding.foldCase(value) : value).getBytes(StandardCharsets.UTF_8);
  }

  private static void addAll(Postings postings, DocBits bits) {
    while (postings.next() != Postings.END) {
      bits.set(postings.doc());
    }
  }

  private DocBits range(Query.Range query) {
    Field field = filterable(query.field());
    DocBits bits = new DocBits(segment.documents());
    if (field.type() == FieldType.EXACT) {
      exactRange(field, query, bits);
      return bits;
    }
    long from = query.from() == null ? Long.MIN_VALUE : field.type().toNumber(query.from());
    long to = query.to() == null ? Long.MAX_VALUE : field.type().toNumber(query.to());
    boolean withFrom = query.from() == null || query.withFrom();
    boolean withTo = query.to() == null || query.withTo();
    addWhere(
        field,
        value -> (withFrom ? value >= from : value > from) && (withTo ? value <= to : value < to),
        bits);
    return bits;
  }

  private void exactRange(Field field, Query.Range query, DocBits bits) {
    Dictionary terms = segment.terms(field);
    int first = 0;
    if (query.from() != null) {
      int place = terms.find(exactTerm(field, (String) query.from()));
      first = place < 0 ? -1 - place : query.withFrom() ? place : place + 1;
    }
    int end = terms.size();
    if (query.to() != null) {
      int place = terms.find(exactTerm(field, (String) query.to()));
      end = place < 0 ? -1 - place : query.withTo() ? place + 1 : place;
    }
    for (int place = first; place < end; place++) {
      addAll(segment.postings(field, terms, place, false), bits);
    }
  }

  private DocBits exists(Query.Exists query) {
    Field field = schema.field(query.field());
    DocBits bits = new DocBits(segment.documents());
    if (field.hasColumn() && field.type().isNumeric()) {
      addWhere(field, value -> true, bits);
    } else if (field.hasColumn()) {
      SegmentReader.OrdinalColumn column = segment.ordinals(field);
      for (int doc = 0; doc < segment.documents(); doc++) {
        if (column.first(doc) < column.end(doc)) {
          bits.set(doc);
        }
      }
    } else if (field.type() == FieldType.TEXT && field.hasTerms()) {
      SegmentReader.Lengths lengths = segment.lengths(field);
      for (int doc = 0; doc < segment.documents(); doc++) {
        if (lengths.of(doc) > 0) {
          bits.set(doc);
        }
      }
    } else {
      throw new QueryRefusedException(
          "field '" + field.name() + "' cannot be asked for; give it the use 'filter'");
    }
    return bits;
  }

  private void addWhere(Field field, java.util.function.LongPredicate wanted, DocBits bits) {
    SegmentReader.NumberColumn column = segment.numbers(field);
    for (int doc = 0; doc < segment.documents(); doc++) {
      int end = column.end(doc);
      for (int i = column.first(doc); i < end; i++) {
        if (wanted.test(column.value(i))) {
          bits.set(doc);
          break;
        }
      }
    }
  }

  private Field filterable(String name) {
    Field field = schema.field(name);
    if (field.type() == FieldType.EXACT ? !field.hasTerms() : !field.hasColumn()) {
      throw new QueryRefusedException(
          "field '" + name + "' cannot be filtered; give it the use 'filter' in the index");
    }
    return field;
  }
}
