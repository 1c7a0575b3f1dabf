package org.mnemex.cli;

import java.io.IOException;
import java.io.PrintWriter;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.time.Clock;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.UnreachableException;
import org.mnemex.garden.Garden;
import org.mnemex.garden.Gardener;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

@Command(
    name = "demo",
    description = "Create the demo garden, start the service, and keep the data changing.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex demo --changes 20"})
final class DemoCommand implements Callable<Integer> {
  private static final long START_SECONDS = 120;
  private static final long POLL_MILLIS = 50;
  private static final int MAX_NODES = 8;
  private static final int MAX_SHARDS = 8;

  @Spec private CommandSpec spec = CommandSpec.create();

  @Option(
      names = "--accessions",
      paramLabel = "N",
      description = "plants in a new garden, up to 1,000,000 (default: ${DEFAULT-VALUE})")
  private int accessions = Garden.USUAL_ACCESSIONS;

  @Option(
      names = "--changes",
      paramLabel = "N",
      description = "changes a second, 0 for none (default: ${DEFAULT-VALUE})")
  private double changesPerSecond = 2;

  @Option(
      names = "--visits",
      paramLabel = "N",
      description = "searches of visitors a second, 0 for none (default: ${DEFAULT-VALUE})")
  private double visitsPerSecond = 1;

  @Option(
      names = "--port",
      paramLabel = "PORT",
      description = "port of the service (default: ${DEFAULT-VALUE})")
  private int port = 7077;

  @Option(
      names = "--on",
      paramLabel = "DATABASE",
      description =
          "sqlite, or a private server from Debian's packages: postgres, mariadb (default: sqlite)")
  private DemoDatabase.Kind kind = DemoDatabase.Kind.sqlite;

  @Option(names = "--secured", description = "with keys, a sign-in and a token to try")
  private boolean secured;

  @Option(
      names = "--nodes",
      paramLabel = "N",
      description =
          "search nodes beside the service, on the ports after its own, up to 8 (default:"
              + " ${DEFAULT-VALUE})")
  private int nodes;

  @Option(
      names = "--shards",
      paramLabel = "N",
      description =
          "builders that share the index, up to 8, on the ports after those of the nodes; needs"
              + " --nodes (default: ${DEFAULT-VALUE})")
  private int shards = 1;

  @Override
  public Integer call() throws IOException, SQLException, InterruptedException {
    if (accessions < 1
        || accessions > 1_000_000
        || changesPerSecond < 0
        || visitsPerSecond < 0
        || visitsPerSecond > DemoVisitors.MOST
        || nodes < 0
        || nodes > MAX_NODES
        || shards < 1
        || shards > MAX_SHARDS) {
      throw new CommandLine.ParameterException(
          spec.commandLine(),
          "--accessions is 1 to 1,000,000, --changes is not negative, --visits is 0 to %d, --nodes is 0 to %d, and --shards is 1 to %d"
              .formatted(DemoVisitors.MOST, MAX_NODES, MAX_SHARDS));
    }
    if (shards > 1 && nodes == 0) {
      throw new CommandLine.ParameterException(
          spec.commandLine(),
          "with --shards, searches are answered by search nodes; add --nodes 1");
    }
    URI url = URI.create("http://127.0.0.1:" + port);
    try (MnemexClient client = new MnemexClient(url)) {
      if (client.isUp()) {
        throw new IOException(
            "a service answers at " + url + " already; stop it, or choose another --port");
      }
      try (DemoDatabase database = DemoDatabase.open(kind, accessions, this::say)) {
        if (!secured) {
          run(client, database, null);
        } else {
          DemoAccess access = DemoAccess.in(database.folder());
          try (MnemexClient admin = client(url, access)) {
            run(admin, database, access);
          }
        }
      }
      return ExitCode.DONE;
    }
  }

  private void run(MnemexClient client, DemoDatabase database, @Nullable DemoAccess access)
      throws IOException, SQLException, InterruptedException {
    DemoCluster cluster = new DemoCluster(database.folder(), port, nodes, shards);
    Path log = cluster.log(0);
    say("Starting the service (its log: " + log + ") …");
    List<String> common = access == null ? List.of() : access.settings();
    List<String> settings = new ArrayList<>(common);
    settings.addAll(cluster.settings(0));
    Process service = ServiceProcess.start(settings, log, database.environment());
    Runtime.getRuntime()
        .addShutdownHook(
            new Thread(
                () -> {
                  cluster.close();
                  ServiceProcess.stop(service);
                  database.close();
                }));
    cluster.startBuilders(common, database.environment());
    Map<String, String> files = definitions(database);
    waitUntilUp(client, service, log);
    client.apply(files);
    waitUntilLive(client, 0);
    for (int shard = 1; shard < shards; shard++) {
      try (MnemexClient builder = client(cluster.builder(shard), access)) {
        waitUntilUp(builder, service, cluster.log(shard));
        builder.apply(files);
        waitUntilLive(builder, shard);
      }
    }
    if (nodes > 0) {
      List<String> ofNodes = new ArrayList<>(common);
      if (access != null) {
        ofNodes.addAll(access.nodeSettings(client));
      }
      cluster.startNodes(ofNodes);
    }
    MnemexClient searched = shards == 1 ? client : client(cluster.searched(), access);
    explain(client.service(), cluster.searched(), found(searched), database);
    if (access != null) {
      say(access.explained(client, client.service()));
    }
    if (nodes > 0) {
      say(cluster.explained());
    }
    if (visitsPerSecond > 0) {
      Thread.ofVirtual().start(new DemoVisitors(searched, visitsPerSecond));
    }
    keepChanging(service, database);
  }

  private static MnemexClient client(URI url, @Nullable DemoAccess access) {
    return access == null ? new MnemexClient(url) : new MnemexClient(url, null, access.adminKey());
  }

  /** How much is found, as soon as the service has something to search. */
  private static long found(MnemexClient client) throws InterruptedException, IOException {
    long deadline = System.nanoTime() + START_SECONDS * 1_000_000_000L;
    while (true) {
      try {
        return client.search("plant-search", SearchQuery.words("shade fern")).found();
      } catch (ProblemException | UnreachableException e) {
        // A search node fetches the index first.
        if (System.nanoTime() > deadline) {
          throw new IOException("there is no answer from " + client.service(), e);
        }
        Thread.sleep(POLL_MILLIS);
      }
    }
  }

  private static Map<String, String> definitions(DemoDatabase database) throws IOException {
    Map<String, String> files = new LinkedHashMap<>(DefinitionFiles.read(List.of(definitions())));
    for (Map.Entry<String, String> file : database.definitions().entrySet()) {
      files.put(definitions().resolve(file.getKey()).toString(), file.getValue());
    }
    return files;
  }

  private static Path definitions() throws IOException {
    Path folder = DemoDatabase.examples().resolve("garden");
    if (!Files.isDirectory(folder)) {
      throw new IOException(folder + " does not exist; start the demo through the script 'mnemex'");
    }
    return folder;
  }

  private static void waitUntilUp(MnemexClient client, Process service, Path log)
      throws IOException, InterruptedException {
    long deadline = System.nanoTime() + START_SECONDS * 1_000_000_000L;
    while (!client.isUp()) {
      if (!service.isAlive() || System.nanoTime() > deadline) {
        throw new IOException("the service did not start; " + log + " says why");
      }
      Thread.sleep(POLL_MILLIS);
    }
  }

  private void waitUntilLive(MnemexClient client, int shard) throws InterruptedException {
    String said = "";
    while (true) {
      IndexStatus index = client.indexes().getFirst();
      if (index.live() != null) {
        String documents = Counted.of(index.live().documents(), "plant is", "plants are");
        say(
            shards == 1
                ? documents + " searchable."
                : documents + " in shard %d of %d.".formatted(shard, shards));
        return;
      }
      IndexStatus.Edition filling = index.next();
      if (filling != null && filling.recordsTotal() > 0) {
        String progress =
            "Indexing: %,d of %,d records".formatted(filling.recordsDone(), filling.recordsTotal());
        if (!progress.equals(said)) {
          say(progress);
          said = progress;
        }
      }
      Thread.sleep(4 * POLL_MILLIS);
    }
  }

  private void explain(URI url, URI searched, long found, DemoDatabase database) {
    String command = searched.equals(url) ? "" : "MNEMEX_URL=" + searched + " ";
    say(
        """

        Mnemex is running.

          Console    %1$s/
          Search     curl '%6$s/search/plant-search?q=shade+fern&height=30..100'   (shade fern: %2$d results)
          Status     ./mnemex status --watch
          Tokens     ./mnemex analyse "The gardener's ferns" -a words -a garden-notes
          A record   ./mnemex trace QB-00017

        Change a row and find it by its new words:

          %4$s "UPDATE accession SET notes = '<p>Glows like phosphorus</p>' WHERE accession_no = 'QB-00017'"
          %7$s./mnemex search plant-search phosphorus

        A gardener makes %3$s changes a second, and visitors search: ./mnemex insights plant-search
        Ctrl-C ends the demo; %5$s
        """
            .formatted(
                url,
                found,
                changesPerSecond == Math.rint(changesPerSecond)
                    ? Long.toString((long) changesPerSecond)
                    : Double.toString(changesPerSecond),
                database.shell(),
                database.afterwards(),
                searched,
                command));
  }

  private void keepChanging(Process service, DemoDatabase database)
      throws SQLException, InterruptedException, IOException {
    try (Gardener gardener =
        new Gardener(database.connect(), System.nanoTime(), Clock.systemUTC())) {
      long next = System.nanoTime();
      while (service.isAlive()) {
        if (changesPerSecond == 0) {
          Thread.sleep(1000);
          continue;
        }
        gardener.change();
        next += (long) (1e9 / changesPerSecond);
        long left = next - System.nanoTime();
        if (left > 0) {
          Thread.sleep(left / 1_000_000, (int) (left % 1_000_000));
        }
      }
    }
    throw new IOException("the service has ended");
  }

  private void say(String text) {
    PrintWriter out = spec.commandLine().getOut();
    out.println(text);
    out.flush();
  }
}
