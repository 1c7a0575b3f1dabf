package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.Explained;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "search",
    description = "Search an endpoint.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex search plant-search shade fern --facet family=Dryopteridaceae",
      "         --where \"height_cm BETWEEN 10 AND 60\" --sort newest"
    })
final class SearchCommand implements Callable<Integer> {
  private static final int FACET_WIDTH = 10;
  private static final int FACET_VALUES_SHOWN = 4;
  private static final int SPLIT_VALUES_SHOWN = 3;

  @Mixin private Service service = new Service();
  @Spec private CommandSpec spec = CommandSpec.create();

  @Parameters(index = "0", paramLabel = "ENDPOINT", description = "the endpoint")
  private String endpoint = "";

  @Parameters(index = "1..*", paramLabel = "WORDS", description = "what to search for")
  private List<String> words = new ArrayList<>();

  @Option(
      names = "--facet",
      paramLabel = "NAME=VALUE",
      description = "choose a value of a facet; may be repeated")
  private List<String> facets = new ArrayList<>();

  @Option(names = "--where", paramLabel = "FILTER", description = "a filter as in SQL")
  private @Nullable String where;

  @Option(
      names = "--sort",
      paramLabel = "NAME",
      description = "one of the endpoint's orders; may be repeated, most significant first")
  private List<String> sorts = new ArrayList<>();

  @Option(
      names = "--must-match",
      paramLabel = "WORDS",
      description = "how many words must match: all, any, a number, or a share such as 75%%")
  private @Nullable String mustMatch;

  @Option(
      names = "--relax",
      paramLabel = "N",
      description = "with fewer results, the least telling words are left out")
  private @Nullable Integer relax;

  @Option(
      names = "--language",
      paramLabel = "TAG",
      description = "language of the words, such as de; one that the endpoint has fields for")
  private @Nullable String language;

  @Option(
      names = "--field",
      paramLabel = "NAME",
      description = "answer only this shown field; may be repeated")
  private @Nullable List<String> fields;

  @Option(
      names = "--count",
      paramLabel = "FACET",
      description = "count only this facet; may be repeated")
  private @Nullable List<String> counts;

  @Option(names = "--group", paramLabel = "NAME", description = "one of the endpoint's groups")
  private @Nullable String group;

  @Option(
      names = "--similar-to",
      paramLabel = "KEY",
      description = "results that are similar to a record")
  private @Nullable String similarTo;

  @Option(
      names = "--near",
      paramLabel = "LAT,LON",
      description = "where you are, for orders by distance")
  private @Nullable String near;

  @Option(
      names = "--after",
      paramLabel = "PLACE",
      description = "continue after an earlier answer: its 'next'")
  private @Nullable String after;

  @Option(
      names = "--true-for",
      paramLabel = "POSITION",
      description =
          "wait until the index has everything up to a position of the database, see 'mnemex feed"
              + " position'")
  private @Nullable String trueFor;

  @Option(
      names = "--with",
      paramLabel = "FILE",
      description =
          "search the endpoint as it would be under these definitions, such as curations, without"
              + " applying them; may be repeated")
  private List<Path> with = new ArrayList<>();

  @Option(
      names = "--explain",
      paramLabel = "KEY",
      description = "explain this record's score, or why it is not a result")
  private @Nullable String explain;

  @Option(names = "--page", paramLabel = "N", description = "page, from 1")
  private int page = 1;

  @Option(names = "--size", paramLabel = "N", description = "results per page")
  private @Nullable Integer size;

  @Override
  public Integer call() throws IOException {
    SearchQuery query =
        SearchQuery.words(String.join(" ", words))
            .where(where)
            .similarTo(similarTo)
            .sort(sorts.toArray(String[]::new))
            .mustMatch(mustMatch)
            .relax(relax)
            .language(language)
            .fields(fields)
            .counts(counts)
            .group(group)
            .page(page, size)
            .near(near)
            .after(after)
            .trueFor(trueFor);
    for (String facet : facets) {
      int equals = facet.indexOf('=');
      if (equals < 1) {
        throw new CommandLine.ParameterException(
            spec.commandLine(), "--facet takes NAME=VALUE, not '" + facet + "'");
      }
      query = query.choose(facet.substring(0, equals), facet.substring(equals + 1));
    }
    try (MnemexClient client = service.client()) {
      String searched =
          with.isEmpty()
              ? endpoint
              : client.quality().tryDefinitions(endpoint, DefinitionFiles.read(with)).endpoint();
      if (explain != null) {
        Explained explained = client.explain(searched, query, explain);
        if (service.json()) {
          service.printJson(explained);
        } else {
          print(explained, 0);
        }
        return ExitCode.DONE;
      }
      SearchAnswer answer = client.search(searched, query);
      if (service.json()) {
        service.printJson(answer);
      } else {
        print(answer);
      }
      return ExitCode.DONE;
    }
  }

  private void print(Explained part, int depth) {
    String number = part.matched() ? "%.4f".formatted(part.value()) : "no";
    service
        .out()
        .println(
            "%s%s  %s%s"
                .formatted(
                    "  ".repeat(depth),
                    bold("%8s".formatted(number)),
                    part.what(),
                    part.how() == null || part.how().equals("FORMULA")
                        ? ""
                        : part.how().equals("SUM") ? ", the sum of" : ", the product of"));
    part.parts().forEach(inner -> print(inner, depth + 1));
  }

  private void print(SearchAnswer answer) {
    var out = service.out();
    SearchAnswer.Total total = answer.total();
    out.println(
        service.styled(
            "@|bold %s%s|@ in %.1f ms, page %d%s, as of %s (edition %d)"
                .formatted(
                    total == null
                        ? "results"
                        : (total.exact() ? "" : "at least ") + Counted.of(total.count(), "result"),
                    answer.groups() == null ? "" : " in " + Counted.of(answer.groups(), "group"),
                    answer.millis(),
                    answer.page(),
                    answer.pages() == null ? "" : " of " + answer.pages(),
                    answer.asOf().time(),
                    answer.asOf().edition())));
    if (answer.curated() != null) {
      for (SearchAnswer.Curated one : answer.curated()) {
        String link = one.link() == null ? "" : " " + one.link();
        out.println(
            "Curated by %s, rule %s%s"
                .formatted(
                    one.curation(),
                    one.rule(),
                    one.message() == null ? "" : ": " + bold(one.message()) + link));
      }
    }
    if (answer.leftOut() != null) {
      out.println("Left out, to find more: " + bold(String.join(", ", answer.leftOut())));
    }
    if (answer.missingShards() != null) {
      out.println(
          "Incomplete: no search node can be asked for shard %s of the index now"
              .formatted(
                  answer.missingShards().stream()
                      .map(String::valueOf)
                      .collect(Collectors.joining(", "))));
    }
    for (SearchAnswer.Result result : answer.results()) {
      out.println();
      SearchAnswer.Card card = answer.card();
      out.printf("%s  %s", bold(result.key()), line(result, card.title()));
      String subtitle = line(result, card.subtitle());
      out.println(
          (subtitle.isEmpty() ? "" : "  " + subtitle)
              + (result.putFirst() == null ? "" : "  (put first)"));
      if (result.group() != null) {
        out.println(group(result.group()));
      }
      result
          .highlights()
          .forEach(
              (field, fragments) -> {
                boolean told = field.equals(card.title()) || field.equals(card.subtitle());
                if (!told || !areWhole(fragments, shown(result, field))) {
                  fragments.forEach(
                      fragment -> out.println("    " + field + ": " + marked(fragment)));
                }
              });
    }
    if (answer.didYouMean() != null) {
      out.println("Did you mean: " + bold(answer.didYouMean()));
    }
    out.println();
    int width =
        answer.facets().keySet().stream().mapToInt(String::length).reduce(FACET_WIDTH, Math::max);
    answer
        .facets()
        .forEach(
            (name, facet) -> {
              String told = told(facet);
              if (!told.isEmpty()) {
                out.println(bold(("%-" + width + "s").formatted(name)) + "  " + told);
              }
            });
  }

  /** What a facet says on a line; empty if it has no values. */
  private static String told(SearchAnswer.Facet facet) {
    SearchAnswer.Statistics numbers = facet.statistics();
    if (numbers != null) {
      return "%s to %s%s"
          .formatted(
              numbers.least(),
              numbers.greatest(),
              (numbers.mean() == null ? "" : ", %.1f on average".formatted(numbers.mean()))
                  + percentiles(numbers));
    }
    String values =
        facet.values().stream()
            .limit(FACET_VALUES_SHOWN)
            .map(
                value ->
                    "%s%s %,d%s"
                        .formatted(
                            value.chosen() ? "✓ " : "", value.label(), value.count(), split(value)))
            .collect(Collectors.joining(" · "));
    boolean more = facet.more() || facet.values().size() > FACET_VALUES_SHOWN;
    return values + (more && !values.isEmpty() ? " · …" : "");
  }

  /** Whose best a result is, and which come next. */
  private static String group(SearchAnswer.Group group) {
    String others =
        group.results().stream().map(SearchAnswer.Result::key).collect(Collectors.joining(", "));
    return "    the best of %,d%s%s"
        .formatted(
            group.count(),
            group.value() == null ? " without a value" : " in " + group.value(),
            others.isEmpty() ? "" : ", before " + others);
  }

  private static String percentiles(SearchAnswer.Statistics told) {
    StringBuilder out = new StringBuilder();
    if (told.percentiles() != null) {
      told.percentiles()
          .forEach((share, value) -> out.append(", %s%%: %s".formatted(share, value)));
    }
    return out.toString();
  }

  private static String split(SearchAnswer.FacetValue value) {
    if (value.split() == null || value.split().isEmpty()) {
      return "";
    }
    return value.split().stream()
        .limit(SPLIT_VALUES_SHOWN)
        .map(inner -> "%s %,d".formatted(inner.label(), inner.count()))
        .collect(Collectors.joining(", ", " (", ")"));
  }

  private String bold(String text) {
    return service.styled("@|bold " + text + "|@");
  }

  private static String shown(SearchAnswer.Result result, @Nullable String field) {
    return field == null ? "" : String.valueOf(result.fields().getOrDefault(field, ""));
  }

  /** A shown field with its words marked, where the marks are in the whole of it. */
  private String line(SearchAnswer.Result result, @Nullable String field) {
    String shown = shown(result, field);
    List<String> fragments = field == null ? null : result.highlights().get(field);
    return fragments != null && areWhole(fragments, shown) ? marked(fragments.getFirst()) : shown;
  }

  private static boolean areWhole(List<String> fragments, String shown) {
    return fragments.size() == 1
        && characters(fragments.getFirst().replaceAll("</?mark>", "")).equals(shown);
  }

  /** Turns HTML marks into terminal styles, and entities into characters. */
  private String marked(String html) {
    String on = service.styled("@|bold,yellow X|@");
    int x = on.indexOf('X');
    return characters(
        html.replace("<mark>", on.substring(0, x)).replace("</mark>", on.substring(x + 1)));
  }

  /** Turns entities into characters. */
  private static String characters(String html) {
    return html.replace("&lt;", "<")
        .replace("&gt;", ">")
        .replace("&quot;", "\"")
        .replace("&#39;", "'")
        .replace("&amp;", "&");
  }
}
