"""What people take away: documents, tables, SQL. One module an output."""
