package api_test
import ("testing";"context";"huekeep/api";"github.com/stretchr/testify/require")
func TestTheContractIsValidAndSaysWhoMayCallWhat(t *testing.T){ d,err:=api.Contract(); require.NoError(t,err); require.NoError(t,d.Validate(context.Background())); _,err=api.AccessOf(d); require.NoError(t,err)}
