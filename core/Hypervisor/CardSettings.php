<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** A network card of a machine, as it is configured. */
final readonly class CardSettings
{
    private const NETWORK = '/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D';

    private const MAC = '/^[0-9a-f]{2}(:[0-9a-f]{2}){5}$/D';

    public string $mac;

    /**
     * @param  string  $network  its name at the hypervisor
     * @param  bool  $isConnected  whether its cable is in
     *
     * @throws UnfitSettings
     */
    public function __construct(public string $network, string $mac, public bool $isConnected = true)
    {
        $this->mac = strtolower($mac);
        preg_match(self::NETWORK, $network) === 1 || throw UnfitSettings::because('there can be no network '.mb_scrub($network));
        (preg_match(self::MAC, $this->mac) === 1 && (hexdec($this->mac[1]) & 1) === 0) ||
            throw UnfitSettings::because(
                'no card has the address '.mb_scrub($mac).', it is six pairs of hexadecimal digits, the first even',
            );
    }

    /** An address of its own for whatever a text names: locally administered (IEEE 802), the rest from its digest. */
    public static function newMac(string $of): string
    {
        return implode(':', str_split('02'.substr(hash('sha256', $of), 0, 10), 2));
    }

    public function with(?string $mac = null, ?string $network = null, ?bool $isConnected = null): self
    {
        return new self($network ?? $this->network, $mac ?? $this->mac, $isConnected ?? $this->isConnected);
    }

    /** @return array{network: string, mac: string, connected: bool} */
    public function toArray(): array
    {
        return ['network' => $this->network, 'mac' => $this->mac, 'connected' => $this->isConnected];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        return new self(Told::text($told, 'network'), Told::text($told, 'mac'), ($told['connected'] ?? true) === true);
    }
}
