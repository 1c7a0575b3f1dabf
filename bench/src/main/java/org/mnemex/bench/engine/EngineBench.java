package org.mnemex.bench.engine;

import java.io.IOException;
import java.io.InterruptedIOException;
import java.io.PrintStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.locks.LockSupport;
import java.util.function.IntFunction;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.facet.DateFacet;
import org.mnemex.engine.facet.DateUnit;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.suggest.SuggestRequest;

/** The engine's targets, each beside the plainest loop that does the least anybody must do. */
public final class EngineBench {
  private static final String ALL_PARTS = "index,size,open,search,deletions,facets,heap,updates";
  private static final int BATCH = 20_000;
  private static final long REFRESH_NANOS = 5_000_000;
  private static final int QUERIES = 200;
  private static final Map<String, Double> FIELDS = Map.of("title", 3.0, "body", 1.0);

  private final int documents;
  private final Path folder;
  private final PrintStream out;
  private final IntFunction<Document> source;
  private final Schema schema;
  private final QuerySource queries;
  private long textBytes;

  private EngineBench(
      int documents,
      Path folder,
      PrintStream out,
      IntFunction<Document> source,
      Schema schema,
      QuerySource queries) {
    this.documents = documents;
    this.folder = folder;
    this.out = out;
    this.source = source;
    this.schema = schema;
    this.queries = queries;
  }

  /** Words to ask for. */
  interface QuerySource {
    /** Some words of a query, frequent and rare ones mixed. */
    List<String> words(Random random, int count);
  }

  /**
   * Measures.
   *
   * @param arguments {@code --documents N}, {@code --input FILE} (lines of JSON, or CSV), {@code
   *     --keep FOLDER}, {@code --only PART,PART} of index, size, open, search, deletions, facets,
   *     heap and updates: without index the kept folder of an earlier run is measured
   */
  public static void main(String[] arguments) throws IOException {
    Map<String, String> options = new HashMap<>();
    for (int i = 0; i + 1 < arguments.length; i += 2) {
      options.put(arguments[i], arguments[i + 1]);
    }
    int documents = Integer.parseInt(options.getOrDefault("--documents", "1000000"));
    Set<String> parts = Set.of(options.getOrDefault("--only", ALL_PARTS).split(","));
    PrintStream out = System.out;
    Path folder =
        options.containsKey("--keep")
            ? Path.of(options.get("--keep"))
            : Files.createTempDirectory("mnemex-bench");
    if (options.containsKey("--serve")) {
      // The child of the measurement with little heap.
      Corpus corpus = new Corpus();
      new EngineBench(documents, folder, out, corpus::document, Corpus.schema(), words(corpus))
          .serveOnly();
      return;
    }
    try {
      if (options.containsKey("--input")) {
        TextLines lines = new TextLines(Path.of(options.get("--input")));
        documents = Math.min(documents, lines.size());
        new EngineBench(documents, folder, out, lines::document, TextLines.schema(), lines::words)
            .run(parts, false);
      } else {
        Corpus corpus = new Corpus();
        new EngineBench(documents, folder, out, corpus::document, Corpus.schema(), words(corpus))
            .run(parts, true);
      }
    } finally {
      if (!options.containsKey("--keep")) {
        Corpus.delete(folder);
      }
    }
  }

  private static QuerySource words(Corpus corpus) {
    return (random, count) -> {
      Set<String> words = new LinkedHashSet<>();
      while (words.size() < count) {
        // From the ranks that people search for: neither "the" nor words that stand nowhere.
        int rank = (int) Math.pow(10, 1 + 3.5 * random.nextDouble());
        words.add(corpus.word(rank));
      }
      return List.copyOf(words);
    };
  }

  private void run(Set<String> parts, boolean generated) throws IOException {
    out.printf(
        "Engine, %,d documents, %d processors, heap %,d MB%n%n",
        documents,
        Runtime.getRuntime().availableProcessors(),
        Runtime.getRuntime().maxMemory() >> 20);
    if (parts.contains("index")) {
      index();
      mergeRest();
    }
    if (parts.contains("size")) {
      size();
    }
    if (parts.contains("open")) {
      open();
    }
    try (EditionFolder edition = EditionFolder.open(folder, schema)) {
      out.printf("segments                     %8d%n", edition.snapshot().segments().size());
      if (parts.contains("search")) {
        search(edition);
      }
      if (parts.contains("facets") && generated) {
        facets(edition);
      }
    }
    if (parts.contains("deletions") && generated) {
      deletions();
    }
    if (parts.contains("heap") && generated) {
      smallHeap();
    }
    if (parts.contains("updates") && generated) {
      updates();
    }
  }

  private void mergeRest() throws IOException {
    try (EditionFolder edition = EditionFolder.open(folder, schema)) {
      long start = System.nanoTime();
      while (edition.mergeStep() > 0) {
        // Until nothing is left to merge.
      }
      edition.commit();
      out.printf("merging the rest             %8.1f s%n", Times.seconds(start));
    }
  }

  private void index() throws IOException {
    long bytes = 0;
    long indexing = 0;
    long counting = 0;
    long committing;
    Map<String, int[]> counts = new HashMap<>();
    try (EditionFolder edition = EditionFolder.open(folder, schema)) {
      for (int first = 0; first < documents; first += BATCH) {
        List<Document> batch = new ArrayList<>();
        for (int n = first; n < Math.min(documents, first + BATCH); n++) {
          batch.add(source.apply(n));
        }
        long start = Times.cpuNanos();
        count(batch, counts);
        counting += Times.cpuNanos() - start;
        start = Times.cpuNanos();
        for (Document document : batch) {
          edition.put(document);
        }
        indexing += Times.cpuNanos() - start;
        for (Document document : batch) {
          bytes += Corpus.textBytes(document);
        }
      }
      long start = Times.cpuNanos();
      edition.refresh(Checkpoint.NONE);
      indexing += Times.cpuNanos() - start;
      start = System.nanoTime();
      edition.commit();
      committing = System.nanoTime() - start;
    }
    double megabytes = bytes / 1e6;
    out.printf(
        "index text, one thread       %8.1f MB/s   a loop that splits and counts %8.1f MB/s   ratio %.2f%n",
        megabytes / (indexing / 1e9), megabytes / (counting / 1e9), (double) counting / indexing);
    out.printf(
        "                             %,d MB of text, %,d distinct words; processor time of the thread; forcing to the disk %.1f s%n",
        bytes / 1_000_000, counts.size(), committing / 1e9);
    textBytes = bytes;
  }

  /** The least anybody must do: split the text and count its words. */
  private static void count(List<Document> batch, Map<String, int[]> counts) {
    for (Document document : batch) {
      for (String field : List.of("title", "body")) {
        for (Object value : document.fields().getOrDefault(field, List.of())) {
          String text = (String) value;
          int start = -1;
          for (int i = 0; i <= text.length(); i++) {
            boolean letter = i < text.length() && Character.isLetterOrDigit(text.charAt(i));
            if (letter && start < 0) {
              start = i;
            } else if (!letter && start >= 0) {
              counts.computeIfAbsent(text.substring(start, i), w -> new int[1])[0]++;
              start = -1;
            }
          }
        }
      }
    }
  }

  private void size() throws IOException {
    IndexSize size = IndexSize.of(folder, schema);
    out.printf(
        "index without stored records %8.1f MB     text %.1f MB   ratio %.3f (postings %.1f, positions %.1f, terms %.1f, columns %.1f, keys %.1f)%n",
        size.bytes() / 1e6,
        textBytes / 1e6,
        (double) size.bytes() / textBytes,
        size.postings() / 1e6,
        size.positions() / 1e6,
        size.terms() / 1e6,
        size.columns() / 1e6,
        size.keys() / 1e6);
    out.printf(
        "gaps and frequencies packed  %8.1f MB     entropy %.1f MB   ratio %.3f%n",
        size.postings() / 1e6, size.entropyBytes() / 1e6, size.postings() / size.entropyBytes());
  }

  private void open() throws IOException {
    double[] times = new double[5];
    for (int i = 0; i < times.length; i++) {
      long start = System.nanoTime();
      try (EditionFolder edition = EditionFolder.open(folder, schema)) {
        edition.search(
            SearchRequest.of(
                new Query.Word(FIELDS, queries.words(new Random(i), 1).getFirst(), false), 10));
        times[i] = Times.seconds(start) * 1000;
      }
    }
    Arrays.sort(times);
    out.printf(
        "open, and a first search     %8.1f ms median, first %.1f ms at most%n",
        times[2], times[4]);
  }

  private void search(EditionFolder edition) {
    for (int round = 0; round < 3; round++) {
      boolean print = round == 2;
      for (int words = 2; words <= 4; words++) {
        compare(edition, "any of " + words + " words, top 10", words, false, print);
      }
      for (int words = 2; words <= 3; words++) {
        compare(edition, "all of " + words + " words, top 10", words, true, print);
      }
      phrase(edition, print);
      beginnings(edition, print);
      prefixes(edition, print);
    }
  }

  private void compare(EditionFolder edition, String what, int words, boolean all, boolean print) {
    double[] pruned = new double[QUERIES];
    double[] exhaustive = new double[QUERIES];
    for (int i = 0; i < QUERIES; i++) {
      List<Query> clauses = new ArrayList<>();
      for (String word : queries.words(new Random(1000L * words + i), words)) {
        clauses.add(new Query.Word(FIELDS, word, false));
      }
      Query query = all ? new Query.AllOf(clauses) : new Query.AnyOf(clauses);
      SearchRequest request = SearchRequest.of(query, 10).countingUpTo(100);
      pruned[i] = Times.millis(() -> edition.search(request));
      exhaustive[i] =
          Times.millis(() -> edition.search(SearchRequest.of(query, 10).countingUpTo(1L << 50)));
    }
    if (print) {
      double[] ratios = new double[QUERIES];
      for (int i = 0; i < QUERIES; i++) {
        ratios[i] = exhaustive[i] / pruned[i];
      }
      out.printf(
          "%-28s %s   exhaustive %s   p50 ratio %.1f%n",
          what,
          Times.percentiles(pruned),
          Times.percentiles(exhaustive),
          Times.median(exhaustive) / Times.median(pruned));
    }
  }

  private void phrase(EditionFolder edition, boolean print) {
    double[] times = new double[QUERIES];
    for (int i = 0; i < QUERIES; i++) {
      List<String> words = queries.words(new Random(i), 2);
      Query query = new Query.Phrase(FIELDS, words.get(0) + " " + words.get(1));
      times[i] = Times.millis(() -> edition.search(SearchRequest.of(query, 10).countingUpTo(100)));
    }
    if (print) {
      out.printf("%-28s %s%n", "phrase of 2 words", Times.percentiles(times));
    }
  }

  /** Words of which only a beginning is given, with how many results there are. */
  private void beginnings(EditionFolder edition, boolean print) {
    double[] times = new double[QUERIES];
    for (int i = 0; i < QUERIES; i++) {
      String word = queries.words(new Random(i), 1).getFirst();
      Query query = new Query.Wildcard(FIELDS, word.substring(0, Math.min(3, word.length())) + "*");
      SearchRequest request = SearchRequest.of(query, 10).countingUpTo(Long.MAX_VALUE);
      times[i] = Times.millis(() -> edition.search(request));
    }
    if (print) {
      out.printf("%-28s %s%n", "beginnings of 3 letters", Times.percentiles(times));
    }
  }

  private void prefixes(EditionFolder edition, boolean print) {
    double[] times = new double[QUERIES];
    for (int i = 0; i < QUERIES; i++) {
      String word = queries.words(new Random(i), 1).getFirst();
      String prefix = word.substring(0, Math.min(3, word.length()));
      times[i] = Times.millis(() -> edition.suggest(SuggestRequest.of(prefix, 10, "title")));
    }
    if (print) {
      out.printf("%-28s %s%n", "3 letters, with typos", Times.percentiles(times));
    }
  }

  private void facets(EditionFolder edition) {
    List<String> fields = List.of("family", "bed", "colour", "year", "planted");
    List<FacetRequest> requests = new ArrayList<>();
    for (String field : fields) {
      requests.add(
          field.equals("planted")
              ? new DateFacet(field, field, DateUnit.MONTH, ZoneOffset.UTC, List.of())
              : new ValueFacet(field, field, List.of(), 10, FacetOrder.COUNT));
    }
    SearchRequest request =
        new SearchRequest(
            new Query.Everything(),
            new Query.Everything(),
            null,
            0,
            0,
            requests,
            Set.of(),
            List.of());
    int[][] ordinals = new int[fields.size()][documents];
    int[] distinct = {150, 4_000, 10, 126, 430};
    Random random = new Random(3);
    for (int f = 0; f < ordinals.length; f++) {
      for (int doc = 0; doc < documents; doc++) {
        ordinals[f][doc] = random.nextInt(distinct[f]);
      }
    }
    double[] ours = new double[100];
    double[] loop = new double[100];
    long check = 0;
    for (int i = 0; i < ours.length; i++) {
      ours[i] = Times.millis(() -> edition.search(request));
      long start = System.nanoTime();
      for (int f = 0; f < ordinals.length; f++) {
        int[] counts = new int[distinct[f]];
        for (int ordinal : ordinals[f]) {
          counts[ordinal]++;
        }
        check += counts[0];
      }
      loop[i] = (System.nanoTime() - start) / 1e6;
    }
    out.printf(
        "five facets over everything  %s   a loop over int[] %s   ratio %.2f%s%n",
        Times.percentiles(ours),
        Times.percentiles(loop),
        Times.median(loop) / Times.median(ours),
        check < 0 ? "!" : "");
  }

  /** Serves the same queries and facets in a process with little heap. */
  private void smallHeap() throws IOException {
    Process process =
        new ProcessBuilder(
                ProcessHandle.current().info().command().orElse("java"),
                "-Xmx192m",
                "--enable-native-access=ALL-UNNAMED",
                "-cp",
                System.getProperty("java.class.path"),
                EngineBench.class.getName(),
                "--documents",
                String.valueOf(documents),
                "--keep",
                folder.toString(),
                "--serve",
                "true")
            .redirectErrorStream(true)
            .start();
    out.print(new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8));
  }

  private void serveOnly() throws IOException {
    try (EditionFolder edition = EditionFolder.open(folder, schema)) {
      double[] times = new double[QUERIES];
      for (int i = 0; i < QUERIES; i++) {
        List<Query> clauses = new ArrayList<>();
        for (String word : queries.words(new Random(i), 3)) {
          clauses.add(new Query.Word(FIELDS, word, false));
        }
        List<FacetRequest> facets =
            List.of(new ValueFacet("bed", "bed", List.of(), 10, FacetOrder.COUNT));
        SearchRequest request =
            new SearchRequest(
                new Query.AnyOf(clauses),
                new Query.Everything(),
                null,
                0,
                10,
                facets,
                Set.of("title"),
                List.of());
        times[i] = Times.millis(() -> edition.search(request));
      }
      out.printf(
          "heap of %d MB, any of 3 words with a facet: %d answers, %s%n",
          Runtime.getRuntime().maxMemory() >> 20, QUERIES, Times.percentiles(times));
    }
  }

  /**
   * What counting only what is there costs: the same queries before and after a tenth of the
   * documents were deleted, and after each of some more changes.
   */
  private void deletions() throws IOException {
    Random random = new Random(17);
    try (EditionFolder edition = EditionFolder.open(folder, schema)) {
      for (int warmUp = 0; warmUp < 3; warmUp++) {
        anyOfThree(edition, false);
      }
      String before = anyOfThree(edition, false);
      for (int i = 0; i < documents / 10; i++) {
        delete(edition, random);
      }
      edition.refresh(Checkpoint.NONE);
      String first = anyOfThree(edition, false);
      String again = anyOfThree(edition, false);
      String changing = anyOfThree(edition, true);
      out.printf("any of 3 words, all there    %s%n", before);
      out.printf("   a tenth deleted, first    %s%n", first);
      out.printf("   again                     %s%n", again);
      out.printf("   each after ten deletions  %s%n", changing);
    }
  }

  private void delete(EditionFolder edition, Random random) {
    edition.delete("record-%08d".formatted(random.nextInt(documents)));
  }

  private String anyOfThree(EditionFolder edition, boolean changing) throws IOException {
    Random random = new Random(19);
    double[] times = new double[QUERIES];
    for (int i = 0; i < QUERIES; i++) {
      if (changing) {
        for (int n = 0; n < 10; n++) {
          delete(edition, random);
        }
        edition.refresh(Checkpoint.NONE);
      }
      List<Query> clauses = new ArrayList<>();
      for (String word : queries.words(new Random(i), 3)) {
        clauses.add(new Query.Word(FIELDS, word, false));
      }
      SearchRequest request = SearchRequest.of(new Query.AnyOf(clauses), 10).countingUpTo(100);
      times[i] = Times.millis(() -> edition.search(request));
    }
    return Times.percentiles(times);
  }

  /**
   * 2,000 changes a second for some seconds, refreshed every few milliseconds. The first seconds
   * are not counted: writing and merging are compiled in them, on the same processors.
   */
  private void updates() throws IOException {
    int perSecond = 2_000;
    int warmUp = 5;
    int seconds = warmUp + 15;
    List<Document> changes = new ArrayList<>();
    Random random = new Random(11);
    for (int i = 0; i < perSecond * seconds; i++) {
      Document other = source.apply(random.nextInt(documents));
      changes.add(
          new Document(
              "record-%08d".formatted(random.nextInt(documents)),
              other.fields(),
              other.record(),
              i));
    }
    try (EditionFolder edition = EditionFolder.open(folder, schema)) {
      AtomicBoolean done = new AtomicBoolean();
      Thread merging = Thread.ofPlatform().start(() -> merge(edition, done));
      double[] lag = new double[changes.size()];
      long start = System.nanoTime();
      int written = 0;
      while (written < changes.size()) {
        int due = (int) Math.min(changes.size(), (System.nanoTime() - start) * perSecond / 1e9 + 1);
        int first = written;
        for (; written < due; written++) {
          edition.put(changes.get(written));
        }
        if (first < written) {
          edition.refresh(Checkpoint.NONE);
        }
        long now = System.nanoTime();
        for (int i = first; i < written; i++) {
          lag[i] = (now - start) / 1e6 - i * 1000.0 / perSecond;
        }
        long next = now + REFRESH_NANOS;
        while (System.nanoTime() < next) {
          LockSupport.parkNanos(next - System.nanoTime());
        }
      }
      done.set(true);
      merging.join();
      out.printf(
          "change to visible            %s   at %,d changes/s, %d segments at the end%n",
          Times.percentiles(Arrays.copyOfRange(lag, warmUp * perSecond, lag.length)),
          perSecond,
          edition.snapshot().segments().size());
    } catch (InterruptedException e) {
      throw new InterruptedIOException("interrupted");
    }
  }

  private static void merge(EditionFolder edition, AtomicBoolean done) {
    try {
      while (!done.get()) {
        if (edition.mergeStep() == 0) {
          LockSupport.parkNanos(2_000_000);
        }
      }
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }
}
