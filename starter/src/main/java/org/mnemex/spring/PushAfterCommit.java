package org.mnemex.spring;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.function.Consumer;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ProblemException;
import org.mnemex.client.PushClient;
import org.mnemex.client.UnreachableException;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;

/**
 * Pushes records that an application writes itself. Within a transaction they are pushed when it
 * has committed, and never if it is rolled back; the last change of a record counts. Without a
 * transaction they are pushed at once.
 *
 * <p>Between commit and push the process may die: where every change must arrive, let Mnemex read
 * the database itself.
 */
public final class PushAfterCommit {
  private final MnemexClient client;
  private final PushFailures failures;

  /**
   * @param failures hears of records that could not be pushed after a commit
   */
  public PushAfterCommit(MnemexClient client, PushFailures failures) {
    this.client = client;
    this.failures = failures;
  }

  private record Target(String index, String key) {}

  /**
   * Stores a record in the place of what was there.
   *
   * @throws ProblemException without a transaction, if the service refuses it
   * @throws UnreachableException without a transaction, if the service does not answer
   */
  public void replace(String index, String key, Object record) {
    push(new Target(index, key), one -> one.replace(key, record));
  }

  /** Removes a record. */
  public void delete(String index, String key) {
    push(new Target(index, key), one -> one.delete(key));
  }

  private void push(Target target, Consumer<PushClient> change) {
    if (!TransactionSynchronizationManager.isSynchronizationActive()) {
      change.accept(client.push(target.index));
      return;
    }
    Waiting waiting =
        TransactionSynchronizationManager.getSynchronizations().stream()
            .filter(one -> one instanceof Waiting other && other.isOf(this))
            .map(Waiting.class::cast)
            .findFirst()
            .orElse(null);
    if (waiting == null) {
      waiting = new Waiting();
      TransactionSynchronizationManager.registerSynchronization(waiting);
    }
    waiting.changes.put(target, change);
  }

  /** The changes of a transaction. */
  private final class Waiting implements TransactionSynchronization {
    private final Map<Target, Consumer<PushClient>> changes = new LinkedHashMap<>();

    boolean isOf(PushAfterCommit owner) {
      return owner == PushAfterCommit.this;
    }

    @Override
    public void afterCommit() {
      changes.forEach(
          (target, change) -> {
            try {
              change.accept(client.push(target.index));
            } catch (ProblemException | UnreachableException e) {
              failures.failed(target.index, target.key, e);
            }
          });
    }
  }
}
