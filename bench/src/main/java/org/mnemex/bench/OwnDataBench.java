package org.mnemex.bench;

import java.io.PrintStream;
import java.sql.Connection;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import org.mnemex.client.ApplyOptions;
import org.mnemex.client.MnemexClient;

/**
 * Measures keeping in step with one's own records, in a table of a private PostgreSQL server, under
 * the definition that the service drafts for it.
 */
final class OwnDataBench {
  private static final Pattern ANALYSER = Pattern.compile("analyser: ?\\w+");

  private final PrintStream out;

  OwnDataBench(PrintStream out) {
    this.out = out;
  }

  void run(OwnRecords own) throws Exception {
    long start = System.nanoTime();
    try (ServerGarden garden = ServerGarden.onPostgres(1)) {
      OwnRows rows;
      try (Connection connection = garden.connect()) {
        rows = OwnRows.load(own, connection);
      }
      out.printf(
          "Mnemex bench sync: %,d records of %s on %s, %d cores, Java %s; table made in %.0f s%n",
          rows.count(),
          own.name(),
          garden.name(),
          Runtime.getRuntime().availableProcessors(),
          Runtime.version(),
          (System.nanoTime() - start) / 1e9);
      try (ServiceProcess service = ServiceProcess.start(garden.environment())) {
        measure(garden, service, rows);
      }
    }
  }

  private void measure(ServerGarden garden, ServiceProcess service, OwnRows rows) throws Exception {
    MnemexClient client = service.client();
    Map<String, String> files = new LinkedHashMap<>(garden.definitions());
    client.apply(files, new ApplyOptions(true, null, false));
    String draft = client.source("garden").draft(OwnRows.TABLE);
    files.put("bench.yaml", draft);
    String index = named("index", draft);
    PlainReading plain = new PlainReading(garden);
    double copy = plain.table(OwnRows.TABLE);
    Filling filling = new Filling(out, service);
    long backfill = filling.measure(index, "from the database", files);
    out.printf("  %s %,.0f rows/s; ratio %.2f%n", plain.what(), copy, backfill / copy);
    KeepingUp up = new KeepingUp(out, garden, client);
    up.audit(index, backfill);
    String other = withAnalyser(draft, "words");
    if (other.equals(draft)) {
      other = withAnalyser(draft, "english");
    }
    if (other.equals(draft)) {
      out.println("nothing in it is text, so it is not rebuilt with another analyser");
    } else {
      files.put("bench.yaml", other);
      long rebuild = filling.measure(index, "from stored records", files);
      out.printf("  ratio to its backfill %.2f%n", (double) rebuild / backfill);
    }
    up.sustained(
        index,
        named("endpoint", draft),
        rows.count(),
        "UPDATE %s SET %2$s = coalesce(%2$s, '') || ' x' WHERE row_no = ?"
            .formatted(OwnRows.TABLE, rows.longest()),
        (update, n) -> update.setLong(1, n));
  }

  private static String withAnalyser(String draft, String analyser) {
    return ANALYSER.matcher(draft).replaceFirst("analyser: " + analyser);
  }

  private static String named(String kind, String draft) {
    return Pattern.compile("^" + kind + ": *(\\S+)", Pattern.MULTILINE)
        .matcher(draft)
        .results()
        .map((MatchResult found) -> found.group(1))
        .findFirst()
        .orElseThrow();
  }
}
