<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\Instance;

it('lets no burst of guesses past the limit', function (): void {
    $url = 'http://127.0.0.1:'.trim((string) file_get_contents(Instance::home().'/port')).'/sign-in';
    $jar = sys_get_temp_dir().'/kaiseki-jar-'.bin2hex(random_bytes(4));
    $curl = fn (string ...$more): Process => new Process(['curl', '--silent', '--cookie', $jar, ...$more], null, null, null, 120);
    $page = $curl('--cookie-jar', $jar, $url)->mustRun()->getOutput();
    expect(preg_match('/name="_token" value="([^"]+)"/', $page, $token))->toBe(1);
    $guesses = array_map(function (int $n) use ($curl, $jar, $url, $token): Process {
        $process = $curl(
            '--cookie-jar', "$jar.$n", '--location', '--data-urlencode', "_token={$token[1]}", '--data-urlencode',
            'email=sven@sorrelsound.example', '--data-urlencode', "password=guess number $n", $url,
        );
        $process->start();

        return $process;
    }, range(1, 16));
    $tried = 0;
    foreach ($guesses as $n => $guess) {
        $guess->wait();
        $tried += str_contains($guess->getOutput(), 'do not belong together') ? 1 : 0;
        @unlink("$jar.".($n + 1));
    }
    @unlink($jar);
    Instance::database()->exec("DELETE FROM cache WHERE `key` LIKE '%sign-in%'"); // other tests sign in from here too
    expect($tried)->toBeLessThanOrEqual(5);
});

it('serves nothing under a name that is not known', function (): void {
    $port = trim((string) file_get_contents(Instance::home().'/port'));
    $curl = ['curl', '--silent', '--output', '/dev/null', '--write-out', '%{http_code}', "http://127.0.0.1:$port/sign-in"];
    $ask = fn (string $host): string => (new Process([...$curl, '--header', "Host: $host"]))->mustRun()->getOutput();
    expect($ask('evil.example'))->toBe('400')->and($ask("127.0.0.1:$port"))->toBe('200')->and($ask('localhost'))->toBe('200');
});
