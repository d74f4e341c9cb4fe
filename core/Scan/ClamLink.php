<?php

declare(strict_types=1);

namespace Kaiseki\Core\Scan;

/** One session with clamd(8) over its socket: each file is a stream of its own (INSTREAM), its answers carry its number. */
final class ClamLink
{
    private const AT_ONCE = 1 << 18;

    private const LONGEST_ANSWER = 4096;

    private int $number = 0;

    /** @param  resource  $socket */
    private function __construct(private $socket, private readonly int $patience)
    {
    }

    /**
     * @param  int  $patience  seconds in which one file is looked through
     *
     * @throws ScannerIsSilent
     */
    public static function to(string $path, int $patience): self
    {
        $socket = @stream_socket_client("unix://$path", $number, $why, 10);
        $socket !== false || throw ScannerIsSilent::because((string) $why);
        stream_set_timeout($socket, $patience);
        $link = new self($socket, $patience);
        $link->send("zIDSESSION\0");

        return $link;
    }

    /**
     * @param  iterable<string>  $content
     *
     * @throws ScannerIsSilent
     */
    public function scan(iterable $content): ScanAnswer
    {
        $this->number++;
        $this->send("zINSTREAM\0");
        foreach ($content as $bytes) {
            for ($at = 0; $at < strlen($bytes); $at += self::AT_ONCE) {
                $piece = substr($bytes, $at, self::AT_ONCE);
                $this->send(pack('N', strlen($piece)).$piece);
            }
        }
        $this->send(pack('N', 0));
        $said = (string) stream_get_line($this->socket, self::LONGEST_ANSWER, "\0");
        if (preg_match('/^(\d{1,9}): stream: (.*)$/Ds', $said, $m) !== 1 || (int) $m[1] !== $this->number) {
            $what = $said === '' ? "nothing in {$this->patience} s" : mb_strcut(mb_scrub($said), 0, 200);
            throw ScannerIsSilent::because("it said $what");
        }

        return ScanAnswer::of($m[2]);
    }

    private function send(string $bytes): void
    {
        for ($at = 0; $at < strlen($bytes); $at += $sent) {
            $sent = (int) @fwrite($this->socket, substr($bytes, $at));
            $sent > 0 || throw ScannerIsSilent::because('it hung up');
        }
    }
}
