<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** How a machine is configured, whatever lies on its disks: the record that stands in each of its sets. */
final readonly class MachineSettings
{
    private const NAME = '/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D';

    private const MOST_CORES = 1024;

    /** MiB. */
    private const MOST_MEMORY = 64 << 20;

    /**
     * @param  int  $memory  MiB
     * @param  list<DiskSettings>  $disks  in their order at the machine
     * @param  list<CardSettings>  $cards
     * @param  list<string>  $boot  names of the disks that it is started from, the first first
     * @param  list<string>  $tags
     *
     * @throws UnfitSettings
     */
    public function __construct(
        public string $name,
        public array $disks,
        public array $cards = [],
        public int $memory = 256,
        public int $cores = 1,
        public Firmware $firmware = Firmware::Bios,
        public bool $isSecureBoot = false,
        public array $boot = [],
        public array $tags = [],
    ) {
        preg_match(self::NAME, $name) === 1 || throw UnfitSettings::because(
            'the name of a machine has letters, digits, dots, dashes and underscores, at most 100: '.mb_scrub($name),
        );
        $names = array_map(fn (DiskSettings $disk): string => $disk->name, $disks);
        array_unique($names) === $names || throw UnfitSettings::because("two disks of $name have one name");
        array_diff($boot, $names) === [] ||
            throw UnfitSettings::because("$name would start from a disk it does not have: ".implode(', ', array_diff($boot, $names)));
        ($cores > 0 && $cores <= self::MOST_CORES) || throw UnfitSettings::because("a machine has 1 to 1024 cores, not $cores");
        ($memory > 0 && $memory <= self::MOST_MEMORY) || throw UnfitSettings::because("no machine has $memory MiB of memory");
        ! $isSecureBoot || $firmware === Firmware::Uefi || throw UnfitSettings::because('secure boot needs UEFI');
    }

    /** The same with other values of some of its fields. */
    public function with(mixed ...$changes): self
    {
        return new self(...$changes + get_object_vars($this));
    }

    /** The same without a disk. */
    public function without(string $disk): self
    {
        return $this->with(
            disks: array_values(array_filter($this->disks, fn (DiskSettings $one): bool => $one->name !== $disk)),
            boot: array_values(array_diff($this->boot, [$disk])),
        );
    }

    public function disk(string $name): ?DiskSettings
    {
        foreach ($this->disks as $disk) {
            if ($disk->name === $name) {
                return $disk;
            }
        }

        return null;
    }

    /** @return list<string> */
    public function diskNames(): array
    {
        return array_map(fn (DiskSettings $disk): string => $disk->name, $this->disks);
    }

    /** @return list<string> that its cards are on, each once */
    public function networks(): array
    {
        return array_values(array_unique(array_column($this->cards, 'network')));
    }

    /** @return list<string> what is another way in the other, in words: "memory 256 MiB, was 512 MiB" */
    public function differences(self $was): array
    {
        $told = [];
        $now = $this->words();
        foreach ($was->words() as $what => $value) {
            if ($now[$what] !== $value) {
                $told[] = "$what {$now[$what]}, was $value";
            }
        }

        return $told;
    }

    /** @return array<string, string> what it is like, in words */
    public function words(): array
    {
        $card = fn (CardSettings $card): string => "{$card->mac} on {$card->network}".($card->isConnected ? '' : ', not connected');
        $disk = fn (DiskSettings $disk): string => "{$disk->name} ({$disk->bus->value}, ".self::size($disk->size).')';

        return [
            'firmware' => strtoupper($this->firmware->value).($this->isSecureBoot ? ' with secure boot' : ''),
            'cores' => (string) $this->cores,
            'memory' => "{$this->memory} MiB",
            'disks' => implode(', ', array_map($disk, $this->disks)) ?: 'none',
            'starts from' => implode(', ', $this->boot) ?: 'its first disk',
            'cards' => implode('; ', array_map($card, $this->cards)) ?: 'none',
            'tags' => implode(', ', $this->tags) ?: 'none',
        ];
    }

    private static function size(int $bytes): string
    {
        return $bytes % (1 << 20) === 0 ? number_format($bytes >> 20).' MiB' : number_format($bytes).' bytes';
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'name' => $this->name,
            'cores' => $this->cores,
            'memory_mib' => $this->memory,
            'firmware' => $this->firmware->value,
            'secure_boot' => $this->isSecureBoot,
            'disks' => array_map(fn (DiskSettings $disk): array => $disk->toArray(), $this->disks),
            'cards' => array_map(fn (CardSettings $card): array => $card->toArray(), $this->cards),
            'boot' => $this->boot,
            'tags' => $this->tags,
        ];
    }

    /**
     * @param  array<mixed>  $told  from outside
     *
     * @throws UnfitSettings
     */
    public static function fromArray(array $told): self
    {
        return new self(
            Told::text($told, 'name'),
            Told::all($told, 'disks', fn (mixed $disk): DiskSettings => DiskSettings::fromArray(Told::part($disk))),
            Told::all($told, 'cards', fn (mixed $card): CardSettings => CardSettings::fromArray(Told::part($card))),
            Told::number($told, 'memory_mib'),
            Told::number($told, 'cores'),
            Firmware::tryFrom(Told::text($told, 'firmware')) ?? throw UnfitSettings::because('there is no such firmware'),
            ($told['secure_boot'] ?? false) === true,
            Told::texts($told, 'boot'),
            Told::texts($told, 'tags'),
        );
    }
}
