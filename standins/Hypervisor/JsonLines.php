<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use JsonException;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** JSON over a socket of this machine, an object a line each way. */
final class JsonLines
{
    private const LONGEST_LINE = 4 << 20;

    private string $buffer = '';

    /** @param  resource  $stream */
    private function __construct(private $stream)
    {
        stream_set_blocking($stream, false);
    }

    /** The next client is not heard before. */
    public function __destruct()
    {
        fclose($this->stream);
    }

    /** The socket appears late. */
    public static function to(string $socket, float $until): self
    {
        while (($stream = @stream_socket_client("unix://$socket", $error, $words, 1)) === false && microtime(true) < $until) {
            usleep(20_000);
        }

        return new self($stream ?: throw HypervisorFailure::because("the machine does not answer: $words"));
    }

    /** @param  array<string, mixed>  $with */
    public function send(array $with, string $before = ''): void
    {
        $line = $before.json_encode($with, JSON_THROW_ON_ERROR)."\n";
        stream_set_blocking($this->stream, true);
        @fwrite($this->stream, $line) === strlen($line) || throw HypervisorFailure::because('the machine has ended');
        stream_set_blocking($this->stream, false);
    }

    /** @return array<mixed> */
    public function line(float $until): array
    {
        try {
            $told = json_decode($this->until("\n", $until), true, 64, JSON_THROW_ON_ERROR);
        } catch (JsonException $broken) {
            throw HypervisorFailure::nonsense($broken->getMessage());
        }

        return is_array($told) ? $told : [];
    }

    /** What comes before a byte, which goes too. */
    public function until(string $byte, float $until): string
    {
        while (($end = strpos($this->buffer, $byte)) === false) {
            $left = $until - microtime(true);
            $ready = [$this->stream];
            $none = null;
            if ($left <= 0 || strlen($this->buffer) > self::LONGEST_LINE) {
                throw HypervisorFailure::because('the machine does not answer');
            }
            if (stream_select($ready, $none, $none, (int) $left, (int) (fmod($left, 1) * 1e6)) > 0) {
                $bytes = fread($this->stream, 65_536);
                ($bytes !== '' && $bytes !== false) || ! feof($this->stream) || throw HypervisorFailure::because('the machine has ended');
                $this->buffer .= $bytes;
            }
        }
        $before = substr($this->buffer, 0, $end);
        $this->buffer = substr($this->buffer, $end + 1);

        return $before;
    }
}
