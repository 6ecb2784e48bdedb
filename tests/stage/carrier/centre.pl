# A short message centre on loopback, its protocol spoken by Net::SMPP (Debian's libnet-smpp-perl). Told what to do and telling what it sees by lines of JSON.
use strict;
use warnings;
use IO::Select;
use JSON::PP;
use Net::SMPP;

my ($port, $password) = @ARGV;
$| = 1;
my $listening = Net::SMPP->new_listen('127.0.0.1', port => $port, smpp_version => 0x34) or die "cannot listen: $!";
my $select = IO::Select->new($listening, \*STDIN);
my %bound;
my @order;
my $count = 0;
# How it behaves: statuses of the next texts, 'silent' and 'breaks' among them; how many sessions it allows; whether it names texts in hexadecimal; whether it answers only when told to.
my %rules = (next => [], sessions => 5, hex => 0, hold => 0);
# Texts that are not answered yet.
my @held;
my $typed = '';

sub told { print encode_json({@_}), "\n" }
sub gone {
  my ($session) = @_;
  $select->remove($session);
  my $key = "$session";
  @order = grep { $_ != $session } @order;
  told(event => 'gone') if delete $bound{$key};
  close $session;
}

sub heard {
  my ($session, $pdu) = @_;
  my $cmd = $pdu->{cmd};
  if ($cmd == 0x09) {
    my $status = $pdu->{password} ne $password ? 0x0e : @order >= $rules{sessions} ? 0x05 : 0;
    $session->bind_transceiver_resp(system_id => 'centre', seq => $pdu->{seq}, status => $status);
    return if $status;
    $bound{"$session"} = $session;
    push @order, $session;
    told(event => 'bound', user => $pdu->{system_id});
  } elsif ($cmd == 0x04) {
    my $next = shift @{ $rules{next} } // 0;
    my $number = 4090 + ++$count;
    my $id = $rules{hex} ? sprintf('%x', $number) : "$number";
    told(event => 'text', id => "$number", status => "$next", from => $pdu->{source_addr}, fromTon => $pdu->{source_addr_ton},
      to => $pdu->{destination_addr}, toTon => $pdu->{dest_addr_ton}, toNpi => $pdu->{dest_addr_npi},
      esm => $pdu->{esm_class}, coding => $pdu->{data_coding}, receipt => $pdu->{registered_delivery}, hex => unpack('H*', $pdu->{short_message}));
    return if $next eq 'silent';
    return gone($session) if $next eq 'breaks';
    if ($rules{hold}) { push @held, [$session, $id, $pdu->{seq}]; return }
    $session->submit_sm_resp(message_id => $id, seq => $pdu->{seq}, status => $next);
  } elsif ($cmd == 0x15) {
    $session->enquire_link_resp(seq => $pdu->{seq});
  } elsif ($cmd == 0x06) {
    $session->unbind_resp(seq => $pdu->{seq});
    gone($session);
  } elsif ($cmd == 0x80000005) {
    told(event => 'taken', seq => $pdu->{seq}, status => $pdu->{status});
  } elsif ($cmd == 0x15 + 0x80000000) {
    told(event => 'lives');
  }
}

sub asked {
  my ($ask) = @_;
  if ($ask->{do} eq 'rules') { %rules = (%rules, %{ $ask->{rules} }); return }
  if ($ask->{do} eq 'answer') {
    $_->[0]->submit_sm_resp(message_id => $_->[1], seq => $_->[2]) for splice @held;
    return;
  }
  my $session = $order[$ask->{session} // -1] or return told(event => 'nobody');
  return gone($session) if $ask->{do} eq 'break';
  if ($ask->{do} eq 'raw') { syswrite $session, pack('H*', $ask->{hex}); return }
  if ($ask->{do} eq 'enquire') { $session->enquire_link(async => 1); return }
  my %more;
  $more{$_} = $ask->{$_} for grep { defined $ask->{$_} } qw(receipted_message_id);
  $more{message_state} = pack('C', $ask->{message_state}) if defined $ask->{message_state};
  $session->deliver_sm(async => 1, seq => $ask->{seq}, source_addr => $ask->{from}, source_addr_ton => $ask->{ton} // 1, source_addr_npi => 1,
    destination_addr => $ask->{to} // '447700900151', dest_addr_ton => 1, dest_addr_npi => 1, esm_class => $ask->{esm} // 0,
    data_coding => $ask->{coding} // 0, short_message => pack('H*', $ask->{hex}), %more);
}

told(event => 'ready');
while (1) {
  for my $ready ($select->can_read) {
    if ($ready == $listening) {
      my $session = $listening->accept or next;
      $session->set_version(0x34);
      $select->add($session);
    } elsif ($ready == \*STDIN) {
      sysread(STDIN, my $some, 65536) or exit;
      $typed .= $some;
      while ($typed =~ s/^([^\n]*)\n//) { asked(decode_json($1)) }
    } else {
      my $pdu = $ready->read_pdu;
      $pdu ? heard($ready, $pdu) : gone($ready);
    }
  }
}
