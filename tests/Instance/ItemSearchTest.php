<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\CalendarSamples;
use Tests\Support\Instance;
use Tests\Support\MailSamples;
use Tests\Support\Scratch;

/*
 * Words are found by indexes that see committed rows only, so this asks the running application. The oracle is Python's package "email",
 * which decodes the same messages, with its own folding of accents and case (unicodedata).
 */

const DECODED_BY_PYTHON = <<<'PY'
import sys, json, base64, email, email.policy, re, unicodedata
letters = str.maketrans({'ß': 'ss', 'ø': 'o', 'æ': 'ae', 'đ': 'd', 'ł': 'l', 'ı': 'i'})
def words(text):
    bare = ''.join(c for c in unicodedata.normalize('NFKD', text) if not unicodedata.combining(c))
    return re.findall(r'[^\W_]+', bare.lower().translate(letters))
out = []
for raw in json.load(sys.stdin):
    m = email.message_from_bytes(base64.b64decode(raw), policy=email.policy.default)
    body = m.get_body(('plain', 'html'))
    people = lambda name: ' '.join(str(a) for a in m[name].addresses)
    out.append({
        'id': m['message-id'].strip('<> '), 'subject': words(str(m['subject'] or '')), 'from': words(people('from')),
        'to': words(people('to')), 'name': words(' '.join(a.get_filename() or '' for a in m.iter_attachments())),
        'body': words(body.get_content()) if body else [], 'date': m['date'].datetime.timestamp(),
        'attachments': len(list(m.iter_attachments())),
    })
json.dump(out, sys.stdout)
PY;

it('finds what Python finds in the same messages', function (): void {
    $scratch = new Scratch;
    $name = 'mail-'.bin2hex(random_bytes(3));
    try {
        $samples = new MailSamples(71);
        $messages = array_map(fn (): string => $samples->message(), range(1, 240));
        foreach ($messages as $number => $message) {
            $scratch->file("src/mail/p/Maildir/cur/1790000000.M$number.h:2,".($number % 3 === 0 ? 'S' : ''), $message);
        }
        $archives = $scratch->folder('archives');
        $scratch->run(
            'tar', '-czf', "$archives/$name.full.20261001T020000Z.tar.gz", '--format=posix',
            "--listed-incremental={$scratch->path}/snar", '-C', "{$scratch->path}/src", 'mail',
        );
        expect(Instance::kaiseki('adopt', $archives, "--as=$name", '--kind=items')->code)->toBe(0);
        $python = MailSamples::python(DECODED_BY_PYTHON, array_map(base64_encode(...), $messages));
        $found = function (string $line) use ($name): array {
            $answer = Instance::kaiseki('find', $name, $line, '--at=2026-10-02T00:00:00Z', '--json');
            expect($answer->code)->toBe(0, "$line: {$answer->text}");
            $ids = array_column($answer->json()['items'], 'message_id');
            sort($ids);

            return $ids;
        };
        $oracle = function (Closure $fits) use ($python): array {
            $ids = array_column(array_filter($python, $fits), 'id');
            sort($ids);

            return $ids;
        };
        $has = fn (array $all, string ...$words): bool => array_diff($words, $all) === [];
        $begins = fn (array $all, string $with): bool => preg_grep('/^'.preg_quote($with, '/').'/u', $all) !== [];
        $follow = fn (array $all, string $words): bool => str_contains(' '.implode(' ', $all).' ', " $words ");
        $any = fn (array $one): array => [...$one['subject'], ...$one['from'], ...$one['to'], ...$one['name'], ...$one['body']];
        $cases = [
            'subject:reunion' => fn (array $one): bool => $begins($one['subject'], 'reunion'),
            'subject:ÜBERGABE' => fn (array $one): bool => $begins($one['subject'], 'ubergabe'),
            'subject:"dry dock"' => fn (array $one): bool => $follow($one['subject'], 'dry dock'),
            'from:lucja' => fn (array $one): bool => $begins($one['from'], 'lucja'),
            'to:vik' => fn (array $one): bool => $begins($one['to'], 'vik'),
            'name:rech' => fn (array $one): bool => $begins($one['name'], 'rech'),
            'gau' => fn (array $one): bool => $begins($any($one), 'gau'),
            '"the gauge reads"' => fn (array $one): bool => $follow($one['body'], 'the gauge reads'),
            'prix quoted' => fn (array $one): bool => $begins($any($one), 'prix') && $begins($any($one), 'quoted'),
            'subject:dock -gauge' => fn (array $one): bool => $begins($one['subject'], 'dock') && ! $begins($any($one), 'gauge'),
            'attachments>0 subject:fuel' => fn (array $one): bool => $one['attachments'] > 0 && $begins($one['subject'], 'fuel'),
            'before:2026-09-22 from:ada' => fn (array $one): bool => $one['date'] < gmmktime(0, 0, 0, 9, 22, 2026) &&
                $begins($one['from'], 'ada'),
            'is:read subject:schlussel' => fn (array $one): bool => $begins($one['subject'], 'schlussel') &&
                array_search($one['id'], array_column($python, 'id'), true) % 3 === 0,
            'is:unread attachments>0' => fn (array $one): bool => $one['attachments'] > 0 &&
                array_search($one['id'], array_column($python, 'id'), true) % 3 !== 0,
            'mailbox:MAIL/p folder:inbox subject:dock' => fn (array $one): bool => $begins($one['subject'], 'dock'),
            'folder:sent' => fn (): bool => false,
            'is:gone' => fn (): bool => false,
            'nothinglikeit' => fn (): bool => false,
        ];
        foreach ($cases as $line => $fits) {
            expect($found($line))->toBe($oracle($fits), $line);
        }
        expect($has($any($python[0]), ...$python[0]['from']))->toBeTrue();
        // What a server might take for operators is text; where a language has no spaces, parts are found.
        foreach (['+one -two', '"three" (', '~six* >', "'; DROP TABLE items", '@@', 'subject:潮汐'] as $odd) {
            expect(Instance::kaiseki('find', $name, $odd, '--json')->code)->toBe(str_contains($odd, '@@') ? 2 : 0, $odd);
        }
        expect($found('subject:潮汐'))->not->toBe([])->and($found('subject:汐表'))->toBe($found('subject:潮汐表'));
    } finally {
        $scratch->remove();
    }
});

it('finds what notmuch finds in the same Maildir, word by word and by phrases', function (): void {
    $scratch = new Scratch;
    $name = 'mail-'.bin2hex(random_bytes(3));
    try {
        $samples = new MailSamples(83);
        for ($number = 0; $number < 300; $number++) {
            $scratch->file("src/mail/p/Maildir/cur/1790000000.M$number.h:2,S", $samples->message());
        }
        foreach (['new', 'tmp'] as $folder) {
            $scratch->folder("src/mail/p/Maildir/$folder");
        }
        $archives = $scratch->folder('archives');
        $scratch->run(
            'tar', '-czf', "$archives/$name.full.20261001T020000Z.tar.gz", '--format=posix',
            "--listed-incremental={$scratch->path}/snar", '-C', "{$scratch->path}/src", 'mail',
        );
        expect(Instance::kaiseki('adopt', $archives, "--as=$name", '--kind=items')->code)->toBe(0);
        $settings = "[database]\npath={$scratch->path}/src/mail\n[user]\nname=x\nprimary_email=x@x.example\n[new]\ntags=new\n".
            "[maildir]\nsynchronize_flags=false\n";
        $environment = ['NOTMUCH_CONFIG' => $scratch->file('notmuch', $settings), 'HOME' => $scratch->path];
        $notmuch = fn (string ...$said): string => (new Process(['notmuch', ...$said], null, $environment))->mustRun()->getOutput();
        $notmuch('new', '--quiet');
        foreach ([
            // Each word in quotes: notmuch would look for others of its stem too.
            'subject:"dock"', 'subject:"dry dock"', 'subject:"fuel"', 'from:"ada"', 'to:"vik"', '"gauge"', '"the gauge reads"', '"quoted"',
            '"gauge" -"reads gauge"', '"gauge" -"the gauge reads"', 'subject:"dock" -"dry dock"', // both words there, in another order
            '"pontoon"', '"dock" "gauge"', 'from:"ada" "gauge"', 'subject:"dock" -"gauge"', '"nothinglikeit"',
        ] as $line) {
            $answer = Instance::kaiseki('find', $name, $line, '--at=2026-10-02T00:00:00Z', '--json');
            $ours = array_column($answer->json()['items'], 'message_id');
            $asked = str_replace(' -"', ' and not "', $line);
            $theirs = array_filter(explode("\n", $notmuch('search', '--output=messages', $asked)));
            expect($ours)->toEqualCanonicalizing(array_map(fn (string $id): string => substr($id, 3), array_values($theirs)), $line);
        }
        expect($notmuch('count', '"gauge"'))->not->toBe("0\n");
    } finally {
        $scratch->remove();
    }
});

it('finds appointments and contacts by their people, places, numbers and words', function (): void {
    $scratch = new Scratch;
    $name = 'dav-'.bin2hex(random_bytes(3));
    try {
        $scratch->file('src/ines/work/timetable.ics', CalendarSamples::folded([
            'BEGIN:VCALENDAR', 'VERSION:2.0', 'BEGIN:VEVENT', 'UID:t', 'DTSTART;TZID=Europe/Oslo:20261006T090000',
            'RRULE:FREQ=WEEKLY;COUNT=3',
            'SUMMARY:Winter timetable', 'LOCATION:Office\\; upper floor', 'ORGANIZER;CN=Willem Quist:mailto:harbour@sorrel.example',
            'ATTENDEE;CN=Søren Joss:mailto:galley@sorrel.example', 'END:VEVENT', 'BEGIN:VEVENT', 'UID:t',
            'RECURRENCE-ID;TZID=Europe/Oslo:20261013T090000', 'DTSTART;TZID=Europe/Oslo:20261015T090000', 'SUMMARY:With the pilots',
            'END:VEVENT',
            'END:VCALENDAR',
        ]));
        $scratch->file('src/ines/people/yard.vcf', CalendarSamples::folded([
            'BEGIN:VCARD', 'VERSION:3.0', 'UID:yard', 'N:Arrieta;Inés;;;', 'FN:Inés Arrieta', 'ORG:Westwick Slips', 'NOTE:never on Fridays',
            'EMAIL:yard@westwick-slips.example', 'TEL;TYPE=WORK:+47 555 50 142', 'ADR:;;Quay 3;Boathouse;;;', 'END:VCARD',
        ]));
        $archives = $scratch->folder('archives');
        $scratch->run(
            'tar', '-czf', "$archives/$name.full.20261001T020000Z.tar.gz", '--format=posix',
            "--listed-incremental={$scratch->path}/snar", '-C', "{$scratch->path}/src", 'ines',
        );
        expect(Instance::kaiseki('adopt', $archives, "--as=$name", '--kind=items')->code)->toBe(0);
        foreach ([
            'place:upper' => 1, 'place:quay' => 1, 'subject:ines' => 1, 'from:westwick' => 1, 'from:quist' => 1, 'to:soren' => 1,
            'to:yard' => 1, '55550142' => 1, 'to:4755550142' => 1, 'pilots' => 1, '"never on fridays"' => 1, 'timetable on:2026-10-15' => 1,
            'timetable on:2026-10-14' => 0, 'boathouse kind:appointment' => 0, 'kind:appointment -place:upper' => 0, 'office' => 1,
        ] as $line => $expected) {
            $answer = Instance::kaiseki('find', $name, (string) $line, '--json');
            expect(count($answer->json()['items']))->toBe($expected, (string) $line);
        }
    } finally {
        $scratch->remove();
    }
});
