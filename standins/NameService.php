<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use RuntimeException;

/** A name server in small: BIND with one zone that it keeps in a folder, on loopback, which takes changes from who has its key. */
final readonly class NameService
{
    public const KEY = 'kaiseki';

    private function __construct(public string $folder, public int $port, public string $zone, private string $programs)
    {
    }

    /**
     * Writes what it needs, if that is not there yet.
     *
     * @param  string  $programs  where bin/name-server-packages unpacked it
     * @param  array<string, string>  $leads  name in the zone => IPv4 address
     */
    public static function in(string $folder, int $port, string $zone, string $programs, array $leads, int $ttl = 60): self
    {
        $service = new self($folder, $port, $zone, $programs);
        if (! is_file("$folder/named.conf")) {
            is_dir($folder) || mkdir($folder, 0750, true);
            $secret = base64_encode(random_bytes(32));
            self::put($service->keyFile(), 'key "'.self::KEY."\" {\n\talgorithm hmac-sha256;\n\tsecret \"$secret\";\n};\n");
            self::put("$folder/zone.db", $service->records($leads, $ttl));
            self::put("$folder/named.conf", $service->configuration());
        }

        return $service;
    }

    private static function put(string $file, string $content): void
    {
        file_put_contents($file, $content) === strlen($content) || throw new RuntimeException("$file cannot be written");
        chmod($file, 0640); // whose group the folder is may know the key
    }

    /** What a client must know to change something. */
    public function keyFile(): string
    {
        return "{$this->folder}/update.key";
    }

    /** @return list<string> the command that is it, for as long as that runs */
    public function command(): array
    {
        $libraries = implode(':', glob("{$this->programs}/usr/lib/*-linux-gnu") ?: []);
        $named = "{$this->programs}/usr/sbin/named";

        return ['/usr/bin/env', "LD_LIBRARY_PATH=$libraries", $named, '-g', '-n', '1', '-c', "{$this->folder}/named.conf"];
    }

    /** @param  array<string, string>  $leads */
    private function records(array $leads, int $ttl): string
    {
        $lines = ["\$ORIGIN {$this->zone}.", "\$TTL $ttl", '@ IN SOA ns hostmaster 1 3600 600 86400 60', '@ IN NS ns', 'ns IN A 127.0.0.1'];
        foreach ($leads as $name => $address) {
            $lines[] = "$name IN A $address";
        }

        return implode("\n", $lines)."\n";
    }

    private function configuration(): string
    {
        $key = self::KEY;

        return <<<CONF
            include "{$this->keyFile()}";
            options {
                directory "{$this->folder}";
                pid-file none;
                session-keyfile none;
                managed-keys-directory "{$this->folder}";
                listen-on port {$this->port} { 127.0.0.1; };
                listen-on-v6 { none; };
                recursion no;
                allow-transfer { none; };
                dnssec-validation no;
                notify no;
            };
            controls { };
            zone "{$this->zone}" {
                type primary;
                file "{$this->folder}/zone.db";
                update-policy { grant $key zonesub A AAAA; };
            };

            CONF;
    }
}
