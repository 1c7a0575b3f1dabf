package org.mnemex.shop;

import java.util.List;
import org.mnemex.client.SearchAnswer;
import org.mnemex.spring.RowsByKey;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Repository;

/** The products in the shop's own database. */
@Repository
public class Products {
  private final JdbcClient jdbc;
  private final RowsByKey<String, Product> rows;

  /** Products of a database. */
  public Products(JdbcClient jdbc) {
    this.jdbc = jdbc;
    this.rows =
        RowsByKey.query(
            jdbc, "SELECT * FROM product WHERE sku IN (:keys)", Product.class, Product::sku);
  }

  /** The products that a search found, in its order, as they are now. */
  public List<Product> of(SearchAnswer answer) {
    return rows.of(answer);
  }

  /** Takes one out of the stock. Nothing tells Mnemex: it sees the change in the database. */
  public void sell(String sku) {
    jdbc.sql("UPDATE product SET stock = stock - 1 WHERE sku = :sku AND stock > 0")
        .param("sku", sku)
        .update();
  }
}
