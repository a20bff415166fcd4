"""What is kept: rows in MariaDB, originals by the hash of their content."""
