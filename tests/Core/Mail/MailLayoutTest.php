<?php

declare(strict_types=1);

use Kaiseki\Core\Mail\MaildirName;
use Kaiseki\Core\Mail\MailLayout;

it('tells whose mailbox and which folder of it from where a message lies', function (array $maildirs, string $path, array $place): void {
    expect((new MailLayout($maildirs))->placeOf($path, str_ends_with($path, 'box') || str_ends_with($path, 'Sent')))->toBe($place);
})->with([
    'one folder beside the other' => [['ines@x/Maildir', 'ines@x/Maildir/.A'], 'ines@x/Maildir/cur/1:2,S', ['ines@x', 'INBOX']],
    'below it, with dots' => [['ines@x/Maildir'], 'ines@x/Maildir/.Archive.2026/new/1', ['ines@x', 'Archive/2026']],
    'in the form of names' => [['i/Maildir'], 'i/Maildir/.&ANw-bergabe/cur/1', ['i', 'Übergabe']],
    'one folder below the other' => [['i/mail', 'i/mail/Projects', 'i/mail/Projects/Dry dock'], 'i/mail/Projects/Dry dock/cur/1',
        ['i', 'Projects/Dry dock']],
    'the top' => [[''], 'cur/1', ['', 'INBOX']],
    'below the top' => [['', '.Sent'], '.Sent/cur/1', ['', 'Sent']],
    'many below one' => [['srv/vmail/a', 'srv/vmail/b'], 'srv/vmail/b/cur/1', ['srv/vmail/b', 'INBOX']],
    'single files' => [[], 'ines/Letters/2026/x.eml', ['ines', 'Letters/2026']],
    'single files at the top' => [[], 'x.eml', ['', 'INBOX']],
    'mbox' => [[], 'ines/mail/Sent', ['ines', 'Sent']],
    'mbox of arrivals' => [[], 'ines/inbox', ['ines', 'INBOX']],
]);

it('takes a file for one that may hold items by where it lies', function (string $path, bool $may): void {
    expect(MailLayout::mayHoldItems($path))->toBe($may);
})->with([
    ['i/Maildir/cur/1700000000.M1P2.host:2,S', true], ['i/Maildir/new/x', true], ['i/Maildir/tmp/x', false],
    ['i/Maildir/dovecot-uidlist', false], ['i/Maildir/dovecot.index.log', false], ['i/Maildir/maildirsize', false],
    ['i/Maildir/subscriptions', false], ['letters/a.eml', true], ['letters/A.EML', true], ['Sent.mbox', true], ['mail/Sent', true],
    ['notes.txt', false], ['photo.jpg', false], ['work/a.ics', true], ['People.VCF', true],
    ['collection-root/ines/work/.Radicale.cache/item/a.ics', false], ['i/Maildir/.a.ics', false],
]);

it('reads flags out of names', function (string $name, string $base, array $flags): void {
    $of = MaildirName::of($name);
    expect([$of->base, $of->imapFlags(['a' => '$Work', 'b' => 'bad flag'])])->toBe([$base, $flags]);
})->with([
    ['1700.M1P2.h,S=12,W=13:2,FS', '1700.M1P2.h', ['\Flagged', '\Seen']],
    ['1700.M1P2.h:2,', '1700.M1P2.h', []],
    ['1700.M1P2.h', '1700.M1P2.h', []],
    ['1700.h:2,Sab', '1700.h', ['\Seen', '$Work']],
    ['1700.h:2,DFPRST', '1700.h', ['\Draft', '\Flagged', '$Forwarded', '\Answered', '\Seen', '\Deleted']],
    ['a:2,b:2,S', 'a:2,b', ['\Seen']],
]);

it('knows what letters of keywords mean from the file beside them', function (): void {
    expect(MaildirName::meanings("0 \$Work\n1 later\n25 z\n26 toofar\nrubbish\n"))->toBe(['a' => '$Work', 'b' => 'later', 'z' => 'z']);
});

it('tells whose calendar and which one from where its file lies', function (string $path, bool $isWhole, array $place): void {
    expect(MailLayout::collectionOf($path, $isWhole))->toBe($place);
})->with([
    'as a server keeps it' => ['mail/collection-root/ines@x/work/a.ics', false, ['ines@x', 'Calendars/work']],
    'contacts' => ['collection-root/ines@x/people/a.vcf', false, ['ines@x', 'Contacts/people']],
    'a folder of single files' => ['ines/work/2026/a.ics', false, ['ines/work', 'Calendars/2026']],
    'right below' => ['ines/a.ics', false, ['ines', 'Calendars']],
    'a whole calendar in a file' => ['ines/work.ics', true, ['ines', 'Calendars/work']],
    'at the top' => ['all.vcf', true, ['', 'Contacts/all']],
]);
