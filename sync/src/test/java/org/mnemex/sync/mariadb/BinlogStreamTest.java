package org.mnemex.sync.mariadb;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.mnemex.sync.TestServers;
import org.mnemex.sync.definition.SourceDefinition;

class BinlogStreamTest {
  private static final int STREAMS = 40;

  /** Also if it is closed before it has a connection, or while it is getting one. */
  @Test
  @Timeout(value = 2, unit = TimeUnit.MINUTES)
  void aClosedStreamEnds() throws Exception {
    SourceDefinition.Server server = TestServers.newMariadbWithJournal();
    List<BinlogStream> streams = new ArrayList<>();
    for (int i = 0; i < STREAMS; i++) {
      BinlogStream stream = new BinlogStream(server, "");
      streams.add(stream);
      for (int spins = 0; spins < i * 20_000; spins++) {
        Thread.onSpinWait();
      }
      stream.close();
    }
    for (BinlogStream stream : streams) {
      stream.join();
    }
  }
}
