package org.mnemex.sync;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.Condition;
import java.util.concurrent.locks.ReentrantLock;

/** Stands between a client and a server, and cuts connections in the middle of a message. */
public final class CuttingProxy implements AutoCloseable {
  private final ServerSocket listening;
  private final int target;
  private final Set<Socket> open = ConcurrentHashMap.newKeySet();
  private final AtomicLong bytesLeft = new AtomicLong(Long.MAX_VALUE);
  private final ReentrantLock lock = new ReentrantLock();
  private final Condition released = lock.newCondition();
  private boolean stalled;

  /**
   * @param target port on this machine
   */
  public CuttingProxy(int target) throws IOException {
    this.target = target;
    this.listening = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
    Thread.ofVirtual().start(this::accept);
  }

  public int port() {
    return listening.getLocalPort();
  }

  /** Cuts all connections once the server has sent so many bytes more; new ones work again. */
  public void cutAfter(long bytes) {
    bytesLeft.set(bytes);
  }

  /** Lets nothing through for a while, without cutting anything; or lets it through again. */
  public void stall(boolean stalled) {
    lock.lock();
    try {
      this.stalled = stalled;
      released.signalAll();
    } finally {
      lock.unlock();
    }
  }

  private void awaitRelease() throws IOException {
    lock.lock();
    try {
      while (stalled) {
        released.await();
      }
    } catch (InterruptedException e) {
      throw new IOException(e);
    } finally {
      lock.unlock();
    }
  }

  private void accept() {
    try {
      while (true) {
        Socket client = listening.accept();
        Socket server = new Socket(InetAddress.getLoopbackAddress(), target);
        open.add(client);
        open.add(server);
        Thread.ofVirtual().start(() -> copy(client, server, false));
        Thread.ofVirtual().start(() -> copy(server, client, true));
      }
    } catch (IOException e) {
      // Closed, or the server is away: whoever connects will notice.
      return;
    }
  }

  private void copy(Socket from, Socket to, boolean counted) {
    byte[] buffer = new byte[4096];
    try (from;
        to) {
      InputStream in = from.getInputStream();
      OutputStream out = to.getOutputStream();
      for (int read = in.read(buffer); read >= 0; read = in.read(buffer)) {
        awaitRelease();
        long left = counted ? bytesLeft.addAndGet(-read) : 1;
        out.write(buffer, 0, left > 0 ? read : (int) Math.max(0, read + left));
        if (left <= 0) {
          bytesLeft.set(Long.MAX_VALUE);
          cut();
          return;
        }
      }
    } catch (IOException e) {
      // One side has gone; the other is closed with it.
      return;
    } finally {
      open.remove(from);
      open.remove(to);
    }
  }

  private void cut() {
    open.forEach(CuttingProxy::quietly);
    open.clear();
  }

  private static void quietly(Socket socket) {
    try {
      socket.close();
    } catch (IOException e) {
      // It was closed already.
      return;
    }
  }

  @Override
  public void close() throws IOException {
    stall(false);
    listening.close();
    cut();
  }
}
