package org.mnemex.sync.record;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.sql.Connection;
import org.junit.jupiter.api.Test;

class ConnectionPoolTest {
  @Test
  void whatTheDatabaseHasClosedIsNotLentAgain() throws Exception {
    Connection first = mock(Connection.class);
    Connection second = mock(Connection.class);
    SqlDatabase database = mock(SqlDatabase.class);
    when(database.connect()).thenReturn(first, second);
    Connections lent = new ConnectionPool(database).lent(() -> {});
    assertThat(lent.<Connection>use(connection -> connection)).isSameAs(first);
    assertThat(lent.<Connection>use(connection -> connection)).isSameAs(first);
    when(first.isClosed()).thenReturn(true);
    assertThat(lent.<Connection>use(connection -> connection)).isSameAs(second);
    verify(first).close();
  }
}
