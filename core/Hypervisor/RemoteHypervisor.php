<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

use JsonException;
use Kaiseki\Core\Host\HostIsSilent;
use Kaiseki\Core\Host\Wire;

/** A hypervisor that answers at a socket in a folder of this machine; its doors are sockets in a folder beside. */
final class RemoteHypervisor implements Hypervisor
{
    public const SOCKET = 'api.sock';

    public const DOORS = 'doors';

    public const SERVED = 'served';

    /** What may be served at a socket there. */
    public const SERVED_NAME = '/^[a-z0-9]{1,20}$/D';

    /** Bytes of a serial line, or a picture, that are taken. */
    private const MOST_BYTES = 8 << 20;

    /** Seconds in which it answers: starting a machine takes longest. */
    private const PATIENCE = 300;

    private ?Wire $wire = null;

    public function __construct(private readonly string $name, private readonly string $folder)
    {
    }

    public function room(): HostRoom
    {
        return $this->understood(fn (): HostRoom => HostRoom::fromArray($this->ask(HypervisorAsk::Room)));
    }

    public function machines(): array
    {
        return $this->understood(function (): array {
            $machines = [];
            foreach (Told::part($this->ask(HypervisorAsk::Machines)['machines'] ?? null) as $told) {
                $machine = MachineSeen::fromArray(Told::part($told));
                $machines[$machine->settings->name] = $machine;
            }
            ksort($machines);

            return $machines;
        });
    }

    public function machine(string $name): ?MachineSeen
    {
        return $this->machines()[$name] ?? null;
    }

    public function create(MachineSettings $settings, array $storages, array $sources = []): void
    {
        $this->ask(HypervisorAsk::Create, [
            'settings' => $settings->toArray(),
            'storages' => $storages,
            'sources' => array_map(
                fn (DiskDoor $door): array => ['served' => basename($door->socket), 'export' => $door->export],
                $sources,
            ),
        ]);
    }

    public function servedAt(string $name): string
    {
        return "{$this->folder}/".self::SERVED."/$name";
    }

    public function settle(string $name, string $disk, int $limit, ?string $storage = null): void
    {
        $this->ask(HypervisorAsk::Settle, ['name' => $name, 'disk' => $disk, 'limit' => $limit, 'storage' => $storage]);
    }

    public function changeOver(string $name, string $disk): void
    {
        $this->ask(HypervisorAsk::ChangeOver, ['name' => $name, 'disk' => $disk]);
    }

    public function settling(string $name): array
    {
        $told = $this->ask(HypervisorAsk::Settling, ['name' => $name]);

        return $this->understood(function () use ($told): array {
            $disks = [];
            foreach (Told::part($told['disks'] ?? []) as $disk => $one) {
                $disks[(string) $disk] = Settling::fromArray(Told::part($one));
            }

            return $disks;
        });
    }

    public function stopSettling(string $name, string $disk): void
    {
        $this->ask(HypervisorAsk::StopSettling, ['name' => $name, 'disk' => $disk]);
    }

    public function configure(string $name, MachineSettings $settings): void
    {
        $this->ask(HypervisorAsk::Configure, ['name' => $name, 'settings' => $settings->toArray()]);
    }

    public function rename(string $name, string $to): void
    {
        $this->ask(HypervisorAsk::Rename, ['name' => $name, 'to' => $to]);
    }

    public function delete(string $name): void
    {
        $this->ask(HypervisorAsk::Delete, ['name' => $name]);
    }

    public function swapDisk(string $name, string $disk, string $with): void
    {
        $this->ask(HypervisorAsk::SwapDisk, ['name' => $name, 'disk' => $disk, 'with' => $with]);
    }

    public function removeDisk(string $name, string $disk): void
    {
        $this->ask(HypervisorAsk::RemoveDisk, ['name' => $name, 'disk' => $disk]);
    }

    public function start(string $name): void
    {
        $this->ask(HypervisorAsk::Start, ['name' => $name]);
    }

    public function stop(string $name, bool $atOnce): void
    {
        $this->ask(HypervisorAsk::Stop, ['name' => $name, 'at_once' => $atOnce]);
    }

    public function openDisk(string $name, string $disk, bool $toWrite, ?string $mark = null): DiskDoor
    {
        $told = $this->ask(HypervisorAsk::OpenDisk, ['name' => $name, 'disk' => $disk, 'write' => $toWrite, 'mark' => $mark]);

        return $this->understood(fn (): DiskDoor => $this->door($told));
    }

    public function closeDisk(DiskDoor $door): void
    {
        $this->ask(HypervisorAsk::CloseDisk, ['door' => basename($door->socket)]);
    }

    public function marks(string $name, string $disk): array
    {
        $told = $this->ask(HypervisorAsk::Marks, ['name' => $name, 'disk' => $disk]);

        return $this->understood(fn (): array => Told::texts($told, 'marks'));
    }

    public function mark(string $name, string $disk, string $mark): void
    {
        $this->ask(HypervisorAsk::Mark, ['name' => $name, 'disk' => $disk, 'mark' => $mark]);
    }

    public function plug(string $name, string $of, string $disk, string $serial): void
    {
        $this->ask(HypervisorAsk::Plug, ['name' => $name, 'of' => $of, 'disk' => $disk, 'serial' => $serial]);
    }

    public function unplug(string $name, string $serial): void
    {
        $this->ask(HypervisorAsk::Unplug, ['name' => $name, 'serial' => $serial]);
    }

    public function takeSnapshot(string $name, string $snapshot): void
    {
        $this->ask(HypervisorAsk::TakeSnapshot, ['name' => $name, 'snapshot' => $snapshot]);
    }

    public function dropSnapshot(string $name, string $snapshot): void
    {
        $this->ask(HypervisorAsk::DropSnapshot, ['name' => $name, 'snapshot' => $snapshot]);
    }

    public function beginMoment(string $name, array $disks, string $mark, ?string $snapshot = null): Moment
    {
        $with = ['name' => $name, 'disks' => $disks, 'mark' => $mark, 'snapshot' => $snapshot];
        $told = $this->ask(HypervisorAsk::BeginMoment, $with);

        return $this->understood(function () use ($told): Moment {
            $doors = $since = [];
            foreach (Told::part($told['doors'] ?? null) as $disk => $door) {
                $doors[(string) $disk] = $this->door(Told::part($door));
            }
            foreach (Told::part($told['since'] ?? []) as $disk => $mark) {
                $since[(string) $disk] = Told::text(['mark' => $mark], 'mark');
            }

            return new Moment(
                MachineSettings::fromArray(Told::part($told['settings'] ?? null)),
                $doors,
                $since,
                ($told['runs'] ?? true) === true,
                isset($told['unrest']) ? Told::text($told, 'unrest') : null,
            );
        });
    }

    public function endMoment(string $name, bool $isKept): void
    {
        $this->ask(HypervisorAsk::EndMoment, ['name' => $name, 'kept' => $isKept]);
    }

    public function agent(string $name): AgentFacts
    {
        $told = $this->ask(HypervisorAsk::Agent, ['name' => $name]);

        return $this->understood(fn (): AgentFacts => AgentFacts::fromArray($told));
    }

    public function runInside(string $name, array $command, int $limit): InsideOutcome
    {
        $told = $this->ask(HypervisorAsk::RunInside, ['name' => $name, 'command' => $command, 'limit' => $limit]);

        return $this->understood(fn (): InsideOutcome => InsideOutcome::fromArray($told));
    }

    public function writeInside(string $name, string $path, string $bytes, bool $isNew): void
    {
        $this->ask(HypervisorAsk::WriteInside, ['name' => $name, 'path' => base64_encode($path), 'new' => $isNew], $bytes);
    }

    public function openAnnex(string $name): void
    {
        $this->ask(HypervisorAsk::OpenAnnex, ['name' => $name]);
    }

    public function closeAnnex(string $name): void
    {
        $this->ask(HypervisorAsk::CloseAnnex, ['name' => $name]);
    }

    public function annexRecord(string $name, int $from): AnnexRecord
    {
        $answer = $this->answer(HypervisorAsk::AnnexRecord, ['name' => $name, 'from' => $from]);
        $told = $this->object($answer);

        return $this->understood(fn (): AnnexRecord => new AnnexRecord(
            substr($answer[1] ?? '', 0, AnnexRecord::MOST_AT_ONCE),
            Told::number($told, 'beyond'),
        ));
    }

    public function type(string $name, string $text): void
    {
        $this->ask(HypervisorAsk::Type, ['name' => $name, 'text' => $text]);
    }

    /** @param  array<mixed>  $told */
    private function door(array $told): DiskDoor
    {
        $socket = Told::text($told, 'door');
        if (preg_match('/^[a-z0-9]{1,40}$/D', $socket) !== 1) {
            throw HypervisorFailure::nonsense('a door that is none of its own');
        }

        return new DiskDoor("{$this->folder}/".self::DOORS."/$socket", Told::text($told, 'export'));
    }

    public function serial(string $name): string
    {
        return $this->bytes(HypervisorAsk::Serial, $name);
    }

    public function firmware(string $name): string
    {
        return $this->bytes(HypervisorAsk::Firmware, $name);
    }

    public function beat(string $name): Beat
    {
        $told = $this->ask(HypervisorAsk::Beat, ['name' => $name]);

        return $this->understood(fn (): Beat => Beat::fromArray($told));
    }

    public function screen(string $name): string
    {
        return $this->bytes(HypervisorAsk::Screen, $name);
    }

    private function bytes(HypervisorAsk $what, string $name): string
    {
        return substr($this->answer($what, ['name' => $name])[1] ?? '', 0, self::MOST_BYTES);
    }

    /**
     * @param  array<string, mixed>  $with
     * @return array<mixed>
     */
    private function ask(HypervisorAsk $what, array $with = [], string ...$bytes): array
    {
        return $this->object($this->answer($what, $with, ...$bytes));
    }

    /**
     * @param  list<string>  $answer
     * @return array<mixed>
     */
    private function object(array $answer): array
    {
        try {
            $told = json_decode($answer[0] ?? '', true, 32, JSON_THROW_ON_ERROR);
        } catch (JsonException $broken) {
            throw HypervisorFailure::nonsense($broken->getMessage());
        }

        return is_array($told) ? $told : throw HypervisorFailure::nonsense('no object');
    }

    /**
     * @param  array<string, mixed>  $with
     * @return list<string>
     */
    private function answer(HypervisorAsk $what, array $with, string ...$bytes): array
    {
        try {
            $this->wire ??= Wire::to("{$this->folder}/".self::SOCKET, self::PATIENCE);
            $this->wire->send([$what->value, json_encode((object) $with, JSON_THROW_ON_ERROR), ...array_values($bytes)]);
            $answer = $this->wire->receive();
        } catch (HostIsSilent $silent) {
            $this->wire = null;
            throw HypervisorFailure::silent($this->name, rtrim($silent->getMessage(), '.'));
        }
        if (array_shift($answer) !== HypervisorAnswering::DONE) {
            throw HypervisorFailure::because(mb_scrub(mb_strcut($answer[0] ?? 'it did not say why', 0, 1000)));
        }

        return $answer;
    }

    /**
     * @template T
     *
     * @param  callable(): T  $read
     * @return T
     */
    private function understood(callable $read): mixed
    {
        try {
            return $read();
        } catch (UnfitSettings $unfit) {
            throw HypervisorFailure::nonsense($unfit->getMessage());
        }
    }
}
