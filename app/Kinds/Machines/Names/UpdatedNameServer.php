<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Names;

use Kaiseki\Core\Names\Addresses;
use Kaiseki\Core\Names\DomainName;
use Kaiseki\Core\Names\NameFailure;
use Kaiseki\Core\Names\NameServer;
use Kaiseki\Core\Names\TransactionKey;
use Symfony\Component\Process\Process;

/**
 * A name server that takes changes over the network (RFC 2136), signed with a key that it knows (RFC 8945): asked by dig, changed by
 * nsupdate. The key goes over the standard input, and stands on no command line.
 */
final readonly class UpdatedNameServer implements NameServer
{
    /** Seconds until it is given up, of each try; and tries. */
    private const PATIENCE = 3;

    private const TRIES = 2;

    private const TYPES = ['A', 'AAAA'];

    public function __construct(
        private string $address,
        private int $port,
        private DomainName $zone,
        private TransactionKey $key,
    ) {
    }

    public function addresses(DomainName $name): Addresses
    {
        $name->isIn($this->zone) || throw NameFailure::because("{$name->name} is not in the zone {$this->zone->name}");
        $all = [];
        $ttl = null;
        foreach (self::TYPES as $type) {
            foreach ($this->asked($name, $type) as [$seconds, $address]) {
                $all[] = $address;
                $ttl = min($ttl ?? $seconds, $seconds);
            }
        }

        return $ttl === null ? Addresses::of([]) : Addresses::of($all, $ttl);
    }

    /** @return list<array{int, string}> seconds for which each may be kept, and the address */
    private function asked(DomainName $name, string $type): array
    {
        $process = new Process([
            'dig', '-r', '-p', (string) $this->port, "@{$this->address}", '+norecurse', '+noall', '+comments', '+answer',
            '+time='.self::PATIENCE, '+tries='.self::TRIES, '-q', $name->name, '-t', $type,
        ], '/', null, null, 60);
        $process->run();
        $said = $process->getOutput();
        $status = preg_match('/status: ([A-Z]+)/', $said, $found) === 1 ? $found[1] : null;
        $status !== null || throw NameFailure::because("the name server at {$this->address} port {$this->port} does not answer");
        $flags = preg_match('/flags: ([a-z ]*);/', $said, $found) === 1 ? explode(' ', $found[1]) : [];
        (in_array('aa', $flags, true) && in_array($status, ['NOERROR', 'NXDOMAIN'], true)) || throw NameFailure::because(
            "the name server at {$this->address} port {$this->port} is not that of {$this->zone->name}, or does not say ".
                '('.implode(' ', [$status, ...$flags]).')',
        );
        preg_match('/^\S+\s+\d+\s+IN\s+CNAME\s+(\S+)/m', $said, $alias) !== 1 || throw NameFailure::because(
            "{$name->name} is another name for ".mb_scrub($alias[1]).': name that one',
        );
        preg_match_all("/^\\S+\\s+(\\d+)\\s+IN\\s+$type\\s+([0-9a-fA-F:.]+)$/m", $said, $records, PREG_SET_ORDER);

        return array_map(fn (array $record): array => [(int) $record[1], $record[2]], $records);
    }

    public function lead(DomainName $name, Addresses $from, Addresses $to): void
    {
        $name->isIn($this->zone) || throw NameFailure::because("{$name->name} is not in the zone {$this->zone->name}");
        $lines = [
            "server {$this->address} {$this->port}",
            "zone {$this->zone->name}.",
            "key {$this->key->algorithm}:{$this->key->name} {$this->key->secret}",
            ...self::unchanged($name, $from),
        ];
        foreach (self::TYPES as $type) {
            $lines[] = "update delete {$name->name}. $type";
        }
        foreach ($to->all as $address) {
            $lines[] = "update add {$name->name}. {$to->ttl} ".self::type($address)." $address";
        }
        $said = implode("\n", [...$lines, 'send', '']);
        $process = new Process(['nsupdate', '-t', (string) (self::PATIENCE * self::TRIES)], '/', null, $said, 60);
        if ($process->run() !== 0) {
            $why = trim(mb_scrub(mb_strcut($process->getErrorOutput(), 0, 300)));
            $server = "the name server at {$this->address} port {$this->port}";
            throw preg_match('/\b(NXRRSET|YXRRSET|YXDOMAIN|NXDOMAIN)\b/', $why) === 1
                ? NameFailure::changed($name->name)
                : NameFailure::because("$server did not take the change of {$name->name}: $why");
        }
    }

    /** @return list<string> what must be so for the change to be made (RFC 2136, section 2.4) */
    private static function unchanged(DomainName $name, Addresses $from): array
    {
        $lines = [];
        foreach (self::TYPES as $type) {
            $known = array_filter($from->all, fn (string $address): bool => self::type($address) === $type);
            foreach ($known as $address) {
                $lines[] = "prereq yxrrset {$name->name}. $type $address";
            }
            $known !== [] || $lines[] = "prereq nxrrset {$name->name}. $type";
        }

        return $lines;
    }

    private static function type(string $address): string
    {
        return str_contains($address, ':') ? 'AAAA' : 'A';
    }
}
