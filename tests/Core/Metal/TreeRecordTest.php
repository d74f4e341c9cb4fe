<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Metal\NamedCards;
use Kaiseki\Core\Metal\RecordedCard;
use Kaiseki\Core\Metal\RenewedTree;
use Kaiseki\Core\Metal\TreeRecord;
use Kaiseki\Core\Metal\TreeSender;
use Kaiseki\Core\Metal\VolumeToSend;
use Kaiseki\Core\Volume\FileSystems;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

/*
 * What is sent of a file system, and what is read back of it. GNU tar unpacks it, as the medium has it do; find, sha256sum and getfattr say
 * what is there then; and what is spoilt on purpose is found, each by its name.
 */

beforeEach(function (): void {
    $this->scratch = new Scratch(sys_get_temp_dir()); // access lists and capabilities need a file system that keeps them
    $scratch = $this->scratch;
    $scratch->file('tree/srv/plans/plan 1.csv', str_repeat("berth,1\n", 5000));
    $scratch->file('tree/srv/empty', '');
    $scratch->file("tree/srv/odd\n\\ \"name\x01\xff", 'odd');
    $scratch->file('tree/srv/linked', 'two names');
    link($scratch->at('tree/srv/linked'), $scratch->at('tree/srv/other name'));
    symlink('../plans/plan 1.csv', $scratch->at('tree/srv/now'));
    posix_mkfifo($scratch->at('tree/srv/pipe'), 0640);
    $scratch->file('tree/srv/'.str_repeat('long', 50), 'long');
    $holes = ['holes' => [[0, 'begin'], [3 << 20, 'middle'], [(8 << 20) - 1, 'x']], 'ends in a hole' => [[1 << 20, 'one']]];
    foreach ($holes as $name => $at) {
        $file = fopen($scratch->at("tree/srv/$name"), 'w+b');
        ftruncate($file, 8 << 20);
        foreach ($at as [$from, $bytes]) {
            fseek($file, $from);
            fwrite($file, $bytes);
        }
        fclose($file);
    }
    chmod($scratch->at('tree/srv/plans/plan 1.csv'), 0644);
    chmod($scratch->at('tree/srv/empty'), 04751);
    touch($scratch->at('tree/srv/plans/plan 1.csv'), 1_500_000_000);
    $scratch->file('capability', (string) hex2bin('0100000200200000000000000000000000000000'));
    $this->image = $scratch->at('image');
    $scratch->run('truncate', '-s', '24M', $this->image);
    $scratch->run('mke2fs', '-q', '-t', 'ext4', '-d', $scratch->at('tree'), $this->image);
    (new Process(['debugfs', '-w', '-f', '-', $this->image], null, null, implode("\n", [
        'set_inode_field /srv/empty uid 70001', 'set_inode_field /srv/empty gid 12', 'ea_set /srv/plans user.berth nine',
        'set_inode_field "/srv/plans/plan 1.csv" mtime_extra 0x1dcd6500',
        "ea_set -f {$scratch->at('capability')} /srv/linked security.capability",
    ])."\n"))->mustRun();
    $files = FileSystems::on(FileDisk::open($this->image));
    $this->record = new TreeRecord(fopen($scratch->at('record'), 'w+b'));
    $sender = new TreeSender(new VolumeToSend($files), $this->record);
    $archive = fopen($scratch->at('sent.tar.gz'), 'w+b');
    $sender->pour(new TarWriter(new GzipMemberWriter($archive)), fn () => null);
    fclose($archive);
    $this->back = $scratch->folder('back');
    $scratch->run(
        'tar', '-C', $this->back, '--numeric-owner', '--same-owner', '--acls', '--xattrs', '--xattrs-include=*', '-xpzf',
        $scratch->at('sent.tar.gz'),
    );
    $this->in = fn (string ...$command): string => (new Process($command, $this->back))->mustRun()->getOutput();
    /** What the medium's tools say of what is there now, compared; the differences. */
    $this->compare = function (): array {
        $said = [];
        foreach ([
            'entries' => "find . -printf '%y %m %U %G %s %T@ %n %p\\0%l\\0'",
            'digests' => 'find . -mindepth 1 -type f -print0 | xargs -0 -r sha256sum -z',
            'attributes' => 'find . -print0 |'.
                'xargs -0 -r getfattr --no-dereference --dump --match=- --encoding=hex 2>/dev/null',
        ] as $part => $script) {
            $said[] = fopen($this->scratch->file($part, ($this->in)('sh', '-c', $script)), 'rb');
        }
        $this->record->differences = [];
        $this->record->wrong = 0;
        $this->record->compare(...$said);

        return $this->record->differences;
    };
});

afterEach(fn () => $this->scratch->remove());

it('finds nothing wrong with what GNU tar unpacked', function (): void {
    expect(($this->compare)())->toBe([])->and($this->record->count())->toBe(14) // lost+found among them, and the top
        ->and(filesize($this->scratch->at('sent.tar.gz')))->toBeLessThan(100_000);
    foreach (['holes', 'ends in a hole'] as $name) {
        $is = stat("{$this->back}/srv/$name");
        expect([$is['size'], 1 << 20 > $is['blocks'] * 512])->toBe([8 << 20, true]);
    }
    expect(($this->in)('getfattr', '--dump', '--match=-', '--encoding=hex', 'srv/linked'))
        ->toContain('security.capability=0x0100000200200000000000000000000000000000');
    expect(file_get_contents("{$this->back}/srv/other name"))->toBe('two names');
});

it('finds whatever is not as it was', function (array $spoil, string $told): void {
    ($this->in)(...$spoil);
    $differences = ($this->compare)();
    expect(implode("\n", $differences))->toContain($told);
})->with([
    'another content of the same length' => [['sh', '-c', "printf X | dd of='srv/plans/plan 1.csv' conv=notrunc status=none && ".
        "touch -d @1500000000.125 'srv/plans/plan 1.csv'"], '/srv/plans/plan 1.csv has another content'],
    'another mode' => [['chmod', '0751', 'srv/empty'], '/srv/empty is "f 751'],
    'another owner' => [['chown', '--no-dereference', '5', 'srv/now'], '/srv/now is "l  5 0'],
    'another time, by a part of a second' => [['touch', '-d', '@1500000000.4', 'srv/plans/plan 1.csv'], 'plan 1.csv is "f 644'],
    'another target of a link' => [['sh', '-c', 'ln -sfn /elsewhere srv/now'], '%2Felsewhere'],
    'a name that is gone' => [['rm', 'srv/pipe'], '/srv/pipe is not there'],
    'a name that is more' => [['touch', 'srv/more'], '/srv/more is there, and was not sent'],
    'an attribute that is gone' => [['setfattr', '-x', 'user.berth', 'srv/plans'], '/srv/plans has the attributes ""'],
    'a capability that is gone' => [['setfattr', '-x', 'security.capability', 'srv/linked'], '/srv/linked has the attributes ""'],
    'a second name that is a file of its own' => [['sh', '-c', "cp -p srv/linked 'srv/x' && mv -f srv/x 'srv/other name'"],
        'names, and had 2'],
    'an odd name that is gone' => [['sh', '-c', 'rm srv/odd*'], '/srv/odd\\n\\\\ "name\\001'],
]);

it('leaves the id of a machine empty where it is to get one of its own, and nothing else', function (): void {
    $scratch = $this->scratch;
    $id = str_repeat('0f', 16)."\n";
    foreach (['etc/machine-id' => $id, 'etc/hostname' => "gate\n", 'srv/etc/machine-id' => $id] as $path => $content) {
        $scratch->file("machine/$path", $content);
    }
    chmod($scratch->at('machine/etc/machine-id'), 0444);
    $scratch->run('truncate', '-s', '8M', $scratch->at('volume'));
    $scratch->run('mke2fs', '-q', '-t', 'ext4', '-d', $scratch->at('machine'), $scratch->at('volume'));
    $tree = new RenewedTree(new VolumeToSend(FileSystems::on(FileDisk::open($scratch->at('volume')))));
    $archive = fopen($scratch->at('renewed.tar.gz'), 'w+b');
    $sender = new TreeSender($tree, new TreeRecord(fopen($scratch->at('renewed'), 'w+b')));
    $sender->pour(new TarWriter(new GzipMemberWriter($archive)), fn () => null);
    fclose($archive);
    $scratch->run('tar', '-C', $scratch->folder('renewed-back'), '-xzpf', $scratch->at('renewed.tar.gz'));
    $back = fn (string $path): string => (string) file_get_contents($scratch->at("renewed-back/$path"));
    expect($tree->isRenewed)->toBeTrue()->and($back('etc/machine-id'))->toBe('')->and($back('etc/hostname'))->toBe("gate\n")
        ->and($back('srv/etc/machine-id'))->toBe($id)->and(fileperms($scratch->at('renewed-back/etc/machine-id')) & 0777)->toBe(0444);
});

it('has the cards of another machine called as the old ones were, where there is systemd', function (): void {
    $scratch = $this->scratch;
    $volume = function (string $name, array $files) use ($scratch): VolumeToSend {
        foreach ($files as $path => $content) {
            $scratch->file("$name/$path", $content);
        }
        $scratch->run('truncate', '-s', '8M', $scratch->at("$name.volume"));
        $scratch->run('mke2fs', '-q', '-t', 'ext4', '-d', $scratch->at($name), $scratch->at("$name.volume"));

        return new VolumeToSend(FileSystems::on(FileDisk::open($scratch->at("$name.volume"))));
    };
    $cards = ['eno1' => '52:54:00:aa:bb:01'];
    $back = function (string $name, VolumeToSend $tree) use ($scratch, $cards): string {
        $archive = fopen($scratch->at("$name.tar.gz"), 'w+b');
        (new TreeSender(new NamedCards($tree, $cards), new TreeRecord(fopen($scratch->at("$name.record"), 'w+b'))))
            ->pour(new TarWriter(new GzipMemberWriter($archive)), fn () => null);
        fclose($archive);
        $scratch->run('tar', '-C', $scratch->folder("$name.back"), '-xzpf', $scratch->at("$name.tar.gz"));

        return $scratch->at("$name.back/etc/systemd/network");
    };
    $link = '10-kaiseki-eno1.link';
    // As udevadm test-builtin net_setup_link takes it: "using specified Name=eno1".
    $new = $back('new', $volume('new', ['etc/systemd/system.conf' => '']));
    expect((string) file_get_contents("$new/$link"))->toContain("[Match]\nMACAddress=52:54:00:aa:bb:01\n\n[Link]\nName=eno1\n")
        ->and(fileperms("$new/$link") & 0777)->toBe(0644)->and(fileowner("$new/$link"))->toBe(0);
    $again = $back('again', $volume('again', ["etc/systemd/network/$link" => 'of before', 'etc/systemd/network/lan.network' => 'set up']));
    expect((string) file_get_contents("$again/$link"))->toContain('Name=eno1')
        ->and((string) file_get_contents("$again/lan.network"))->toBe('set up')
        ->and(is_dir($back('without', $volume('without', ['etc/hostname' => 'gate']))))->toBeFalse()
        ->and(is_file($back('odd', $volume('odd', ['etc/systemd/network' => 'a file']))))->toBeTrue();

    $card = fn (string $name, string $end): ?RecordedCard => RecordedCard::of($name, "52:54:00:00:00:$end");
    $were = [$card('eno1', '01'), $card('eno2', '02'), $card('wlan', '03')];
    expect(NamedCards::pairs($were, ['52:54:00:00:00:02', '52:54:00:00:00:09', '52:54:00:00:00:0a', '52:54:00:00:00:0b']))
        ->toBe(['eno1' => '52:54:00:00:00:09', 'wlan' => '52:54:00:00:00:0a'])
        ->and(NamedCards::pairs($were, ['52:54:00:00:00:09']))->toBe(['eno1' => '52:54:00:00:00:09'])
        ->and(NamedCards::pairs([], ['52:54:00:00:00:09']))->toBe([])
        ->and([$card('../x', '01'), $card("a\nName=b", '01'), RecordedCard::of('lo', '00:00:00:00:00:00'), RecordedCard::of('a', 'x')])
        ->toBe([null, null, null, null]);
});
