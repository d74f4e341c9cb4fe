<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

use JsonException;
use Kaiseki\Core\Host\HostIsSilent;
use Kaiseki\Core\Host\Wire;

/** One wire of a hypervisor: does what is asked over it, one thing after the other. */
final readonly class HypervisorAnswering
{
    public const DONE = 'y';

    public const NOT_DONE = 'n';

    public function __construct(private Wire $wire, private Hypervisor $hypervisor)
    {
    }

    /**
     * Until the other side goes.
     *
     * @param  int  $peer  the account that is answered, beside root
     */
    public function run(int $peer): never
    {
        [$message, $from] = $this->wire->receiveFromWhom();
        if ($from !== $peer && $from !== 0) {
            throw HostIsSilent::nonsense();
        }
        while (true) {
            $this->answer($message);
            $message = $this->wire->receive();
        }
    }

    /** @param  list<string>  $message */
    private function answer(array $message): void
    {
        try {
            $what = HypervisorAsk::tryFrom($message[0] ?? '') ?? throw HostIsSilent::nonsense();
            $with = Told::part(json_decode($message[1] ?? '', true, 32, JSON_THROW_ON_ERROR));
            $this->wire->send([self::DONE, ...$this->done($what, $with, $message[2] ?? '')]);
        } catch (HypervisorFailure|UnfitSettings $failure) {
            $this->wire->send([self::NOT_DONE, $failure->getMessage()]);
        } catch (JsonException) {
            throw HostIsSilent::nonsense();
        }
    }

    /**
     * @param  array<mixed>  $with
     * @return list<string>
     */
    private function done(HypervisorAsk $what, array $with, string $bytes): array
    {
        $name = Told::text($with, 'name');
        $disk = Told::text($with, 'disk');
        if ($what === HypervisorAsk::WriteInside) {
            $path = (string) base64_decode(Told::text($with, 'path'));
            $this->hypervisor->writeInside($name, $path, substr($bytes, 0, Hypervisor::MOST_WRITTEN), ($with['new'] ?? false) === true);

            return ['{}'];
        }
        if ($what === HypervisorAsk::AnnexRecord) {
            $record = $this->hypervisor->annexRecord($name, Told::number($with, 'from'));

            return [json_encode(['beyond' => $record->beyond], JSON_THROW_ON_ERROR), $record->bytes];
        }
        $told = match ($what) {
            HypervisorAsk::Room => $this->hypervisor->room()->toArray(),
            HypervisorAsk::Machines => ['machines' => array_map(
                fn (MachineSeen $machine): array => $machine->toArray(),
                array_values($this->hypervisor->machines()),
            )],
            HypervisorAsk::OpenDisk => ['door' => basename($this->hypervisor->openDisk(
                $name,
                $disk,
                ($with['write'] ?? false) === true,
                isset($with['mark']) ? Told::text($with, 'mark') : null,
            )->socket)],
            HypervisorAsk::BeginMoment => self::moment(
                $this->hypervisor->beginMoment(
                    $name,
                    Told::texts($with, 'disks'),
                    Told::text($with, 'mark'),
                    isset($with['snapshot']) ? Told::text($with, 'snapshot') : null,
                ),
            ),
            HypervisorAsk::Agent => $this->hypervisor->agent($name)->toArray(),
            HypervisorAsk::RunInside => $this->hypervisor
                ->runInside(
                    $name,
                    Told::texts($with, 'command') ?: throw HypervisorFailure::because('no program is named'),
                    min(Hypervisor::MOST_SECONDS, Told::number($with, 'limit')),
                )
                ->toArray(),
            HypervisorAsk::Settling => ['disks' => (object) array_map(
                fn (Settling $one): array => $one->toArray(),
                $this->hypervisor->settling($name),
            )],
            HypervisorAsk::Marks => ['marks' => $this->hypervisor->marks($name, $disk)],
            HypervisorAsk::Serial => $this->hypervisor->serial($name),
            HypervisorAsk::Firmware => $this->hypervisor->firmware($name),
            HypervisorAsk::Beat => $this->hypervisor->beat($name)->toArray(),
            HypervisorAsk::Screen => $this->hypervisor->screen($name),
            default => $this->order($what, $with),
        };

        return is_string($told) ? ['{}', $told] : [json_encode((object) $told, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE)];
    }

    /** @return array<string, mixed> */
    private static function moment(Moment $moment): array
    {
        return [
            'settings' => $moment->settings->toArray(),
            'doors' => (object) array_map(
                fn (DiskDoor $door): array => ['door' => basename($door->socket), 'export' => $door->export],
                $moment->doors,
            ),
            'since' => (object) $moment->since,
            'runs' => $moment->isRunning,
            'unrest' => $moment->unrest,
        ];
    }

    /**
     * What has no answer.
     *
     * @param  array<mixed>  $with
     * @return array<string, never>
     */
    private function order(HypervisorAsk $what, array $with): array
    {
        [$name, $disk] = [Told::text($with, 'name'), Told::text($with, 'disk')];
        $settings = fn (): MachineSettings => MachineSettings::fromArray(Told::part($with['settings'] ?? null));
        match ($what) {
            HypervisorAsk::Create => $this->hypervisor->create($settings(), self::storages($with), $this->sources($with)),
            HypervisorAsk::Settle => $this->hypervisor->settle(
                $name,
                $disk,
                Told::number($with, 'limit'),
                isset($with['storage']) ? Told::text($with, 'storage') : null,
            ),
            HypervisorAsk::ChangeOver => $this->hypervisor->changeOver($name, $disk),
            HypervisorAsk::Plug => $this->hypervisor->plug($name, Told::text($with, 'of'), $disk, Told::text($with, 'serial')),
            HypervisorAsk::Unplug => $this->hypervisor->unplug($name, Told::text($with, 'serial')),
            HypervisorAsk::TakeSnapshot => $this->hypervisor->takeSnapshot($name, Told::text($with, 'snapshot')),
            HypervisorAsk::DropSnapshot => $this->hypervisor->dropSnapshot($name, Told::text($with, 'snapshot')),
            HypervisorAsk::StopSettling => $this->hypervisor->stopSettling($name, $disk),
            HypervisorAsk::Configure => $this->hypervisor->configure($name, $settings()),
            HypervisorAsk::Rename => $this->hypervisor->rename($name, Told::text($with, 'to')),
            HypervisorAsk::Delete => $this->hypervisor->delete($name),
            HypervisorAsk::SwapDisk => $this->hypervisor->swapDisk($name, $disk, Told::text($with, 'with')),
            HypervisorAsk::RemoveDisk => $this->hypervisor->removeDisk($name, $disk),
            HypervisorAsk::Start => $this->hypervisor->start($name),
            HypervisorAsk::Stop => $this->hypervisor->stop($name, ($with['at_once'] ?? false) === true),
            HypervisorAsk::CloseDisk => $this->hypervisor->closeDisk(new DiskDoor(Told::text($with, 'door'))),
            HypervisorAsk::EndMoment => $this->hypervisor->endMoment($name, ($with['kept'] ?? false) === true),
            HypervisorAsk::OpenAnnex => $this->hypervisor->openAnnex($name),
            HypervisorAsk::CloseAnnex => $this->hypervisor->closeAnnex($name),
            HypervisorAsk::Type => $this->hypervisor->type($name, Told::text($with, 'text')),
            HypervisorAsk::Mark => $this->hypervisor->mark($name, $disk, Told::text($with, 'mark')),
            default => throw HostIsSilent::nonsense(),
        };

        return [];
    }

    /**
     * @param  array<mixed>  $with
     * @return array<string, string>
     */
    private static function storages(array $with): array
    {
        $storages = [];
        foreach (Told::part($with['storages'] ?? []) as $disk => $storage) {
            $storages[(string) $disk] = Told::text(['storage' => $storage], 'storage');
        }

        return $storages;
    }

    /**
     * @param  array<mixed>  $with
     * @return array<string, DiskDoor>
     */
    private function sources(array $with): array
    {
        $sources = [];
        foreach (Told::part($with['sources'] ?? []) as $disk => $told) {
            $served = Told::text(Told::part($told), 'served');
            preg_match(RemoteHypervisor::SERVED_NAME, $served) === 1 ||
                throw HypervisorFailure::because('nothing is served under that name');
            $sources[(string) $disk] = new DiskDoor($this->hypervisor->servedAt($served), Told::text(Told::part($told), 'export'));
        }

        return $sources;
    }
}
