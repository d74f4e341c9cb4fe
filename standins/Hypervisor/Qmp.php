<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use JsonException;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** The machine protocol of one QEMU process over its socket: JSON, an object a line each way (docs/interop/qmp-spec of QEMU). */
final class Qmp
{
    private const PATIENCE = 30.0;

    private const LONGEST_LINE = 4 << 20;

    private string $buffer = '';

    private int $number = 0;

    /** @param  resource  $stream */
    private function __construct(private $stream)
    {
        stream_set_blocking($stream, false);
    }

    /** The next client is not greeted before. */
    public function __destruct()
    {
        fclose($this->stream);
    }

    /** The socket appears late, and a second client is not greeted before the first has gone. */
    public static function to(string $socket): self
    {
        $until = microtime(true) + self::PATIENCE;
        while (($stream = @stream_socket_client("unix://$socket", $error, $words, 1)) === false && microtime(true) < $until) {
            usleep(20_000);
        }
        $qmp = new self($stream ?: throw HypervisorFailure::because("the machine does not answer: $words"));
        isset($qmp->line($until)['QMP']) || throw HypervisorFailure::nonsense('no greeting of QMP');
        $qmp->call('qmp_capabilities');

        return $qmp;
    }

    /**
     * @param  array<string, mixed>  $with
     * @return array<mixed>
     */
    public function call(string $command, array $with = []): array
    {
        $id = 'k'.++$this->number;
        $line = json_encode(['execute' => $command, 'arguments' => (object) $with, 'id' => $id], JSON_THROW_ON_ERROR)."\n";
        $until = microtime(true) + self::PATIENCE;
        stream_set_blocking($this->stream, true);
        fwrite($this->stream, $line) === strlen($line) || throw HypervisorFailure::because('the machine has ended');
        stream_set_blocking($this->stream, false);
        do {
            $answer = $this->line($until); // events come between
        } while (($answer['id'] ?? null) !== $id);
        if (isset($answer['error'])) {
            throw HypervisorFailure::because("$command: ".(is_array($answer['error']) ? (string) ($answer['error']['desc'] ?? '') : ''));
        }

        return is_array($answer['return'] ?? null) ? $answer['return'] : [];
    }

    /** @return array<mixed> */
    private function line(float $until): array
    {
        while (($end = strpos($this->buffer, "\n")) === false) {
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
        $line = substr($this->buffer, 0, $end);
        $this->buffer = substr($this->buffer, $end + 1);
        try {
            $told = json_decode($line, true, 64, JSON_THROW_ON_ERROR);
        } catch (JsonException $broken) {
            throw HypervisorFailure::nonsense($broken->getMessage());
        }

        return is_array($told) ? $told : [];
    }
}
