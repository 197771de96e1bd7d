namespace Sirena.Core.Tests;

public class HostAndPortTests
{
    [Theory]
    [InlineData("mail.averil.example", "mail.averil.example", 25)]
    [InlineData(" mail.averil.example ", "mail.averil.example", 25)]
    [InlineData("mail.averil.example:587", "mail.averil.example", 587)]
    [InlineData("127.0.0.1:1", "127.0.0.1", 1)]
    [InlineData("localhost:65535", "localhost", 65535)]
    [InlineData("[::1]:2525", "::1", 2525)]
    public void A_server_is_a_host_and_a_port(string text, string host, int port) => Assert.Equal((host, port), HostAndPort.Read(text, 25));

    [Theory]
    [InlineData("")]
    [InlineData(":25")]
    [InlineData("mail.averil.example:")]
    [InlineData("mail.averil.example:0")]
    [InlineData("mail.averil.example:-25")]
    [InlineData("mail.averil.example:65536")]
    [InlineData("mail.averil.example:smtp")]
    [InlineData("mail server:25")]
    [InlineData("http://mail.averil.example")]
    public void What_is_neither_is_none(string text) => Assert.Null(HostAndPort.Read(text, 25));
}
