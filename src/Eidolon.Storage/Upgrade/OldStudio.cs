using Microsoft.Data.Sqlite;

namespace Eidolon.Storage.Upgrade;

/// <summary>Reads rows of a database of the version before, which no longer has classes of its own.</summary>
internal sealed class OldStudio : IDisposable
{
    private readonly SqliteConnection _connection;

    public OldStudio(string path)
    {
        _connection = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = path,
                Mode = SqliteOpenMode.ReadOnly,
                Pooling = false,
            }.ToString()
        );
        _connection.Open();
    }

    /// <summary>Rows of a query, one at a time.</summary>
    public IEnumerable<Row> Rows(string sql)
    {
        using var command = _connection.CreateCommand();
        command.CommandText = sql;
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            yield return new Row(reader);
        }
    }

    /// <summary>Reads all rows of a query before anything else is asked.</summary>
    public List<T> All<T>(string sql, Func<Row, T> read) => [.. Rows(sql).Select(read)];

    public void Dispose() => _connection.Dispose();

    /// <summary>One row, by the names of its columns.</summary>
    internal sealed class Row(SqliteDataReader reader)
    {
        public string Text(string name) =>
            reader.IsDBNull(reader.GetOrdinal(name)) ? string.Empty : reader.GetString(reader.GetOrdinal(name));

        public int Int(string name) => reader.GetInt32(reader.GetOrdinal(name));

        public int? IntOrNull(string name) => reader.IsDBNull(reader.GetOrdinal(name)) ? null : reader.GetInt32(reader.GetOrdinal(name));

        public double Number(string name) => reader.GetDouble(reader.GetOrdinal(name));

        public DateTime Time(string name) => DateTime.SpecifyKind(reader.GetDateTime(reader.GetOrdinal(name)), DateTimeKind.Utc);

        public byte[] Bytes(string name) => (byte[])reader[name];
    }
}
