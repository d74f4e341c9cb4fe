<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** The machine protocol of one QEMU process over its socket (docs/interop/qmp-spec of QEMU). */
final class Qmp
{
    private const PATIENCE = 30.0;

    private int $number = 0;

    private function __construct(private readonly JsonLines $lines)
    {
    }

    /** A second client is not greeted before the first has gone. */
    public static function to(string $socket): self
    {
        $until = microtime(true) + self::PATIENCE;
        $qmp = new self(JsonLines::to($socket, $until));
        do {
            $greeting = $qmp->lines->line($until);
        } while (isset($greeting['event'])); // one of which the client before was not told any more
        isset($greeting['QMP']) || throw HypervisorFailure::nonsense('no greeting of QMP');
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
        $until = microtime(true) + self::PATIENCE;
        $this->lines->send(['execute' => $command, 'arguments' => (object) $with, 'id' => $id]);
        do {
            $answer = $this->lines->line($until); // events come between
        } while (($answer['id'] ?? null) !== $id);
        if (isset($answer['error'])) {
            throw HypervisorFailure::because("$command: ".(is_array($answer['error']) ? (string) ($answer['error']['desc'] ?? '') : ''));
        }

        return is_array($answer['return'] ?? null) ? $answer['return'] : [];
    }

    /**
     * To take away what may be on its way already, or not there, which is what is wanted.
     *
     * @param  array<string, mixed>  $with
     */
    public function quietly(string $command, array $with = []): void
    {
        try {
            $this->call($command, $with);
        } catch (HypervisorFailure) {
            return;
        }
    }
}
