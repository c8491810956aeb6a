"""What people have: CSV and Parquet files of a folder, looked at, understood and read."""
